"""Touch-up layers of a character go along to a newer version of its rig."""

from collections.abc import Mapping
from dataclasses import replace

from dynaface.core.cast.character import Character
from dynaface.core.documents.model.character import CharacterBody
from dynaface.core.documents.model.layer import LayerBody, SpanEntry
from dynaface.core.layers.layer import Layer
from dynaface.core.records.records import Document
from dynaface.core.returns.carried_layer import carry_layer
from dynaface.services.edit_document import change_document
from dynaface.services.key_rows import key_rows
from dynaface.services.work import Work


def carry_touchups(work: Work, character: Document[CharacterBody], old: Character, new: Character, renamed: Mapping[str, str], label: str) -> list[str]:  # fmt: skip
    """Changes the layers that are about the character, one change each; gives what was left behind, in words."""
    with work.store.unit() as unit:
        layers = [
            n for n in unit.documents.of_kind(character.production, LayerBody) if n.body.character == character.id
        ]
    words: list[str] = []
    for layer in layers:
        was = layer.body.layer
        made, said = carry_layer(was, old, replace(new, name=character.body.name), renamed)
        words += [w for w in said if w not in words]
        if made.key != was.key:
            changes = [{"path": field, "value": value} for field, value in _plain(made).items()]
            change_document(work, layer.id, LayerBody, layer.version, label[:120], changes)
    return words


def _plain(layer: Layer) -> dict[str, object]:
    spans = {span.id: SpanEntry.of(span).plain() for span in layer.spans}
    return {"keys": {channel: key_rows(keys) for channel, keys in layer.keys.items()}, "spans": spans}
