"""Keys of a layer: every edit of them in the deck of a shot (core/keying/kit.py), and what it changes in the document."""

from collections.abc import Mapping, Sequence
from dataclasses import replace
from functools import cached_property
from typing import Any

from dynaface.core.cast.rig_curves import channels_of
from dynaface.core.curves.channels import Channels, Floats
from dynaface.core.curves.held import Held
from dynaface.core.curves.keys import Keys
from dynaface.core.documents.model.layer import LayerBody
from dynaface.core.errors import InputError
from dynaface.core.keying.case import Column, Edit, Made
from dynaface.core.keying.kit import edited_keys
from dynaface.core.layers.layer import Layer, widened
from dynaface.core.layers.layer_case import MODE, LayerCase
from dynaface.core.records.records import Document
from dynaface.core.shapes.regions import REGION
from dynaface.core.shapes.rig import in_order, rotations
from dynaface.core.shapes.standard import CHANNELS
from dynaface.services.edit_document import change_document
from dynaface.services.key_rows import table_changes
from dynaface.services.shot.evaluate_shot import prepare_role
from dynaface.services.shot.list_rig import acting_character, rig_sides
from dynaface.services.shot.snapshot import ShotWish
from dynaface.services.work import Work, document_for

Strokes = Mapping[str, Sequence[tuple[int, Floats]]]
"""Channel -> (first frame, (frames,) how the face shall be from there on)."""


def edit_layer_keys(work: Work, layer: str, version: int, label: str, edit: Edit
                    ) -> tuple[Document[LayerBody], dict[str, Any]]:  # fmt: skip
    """Makes an edit and keeps it: (layer, what it did by channel). It can be undone."""
    found, made, report = _edited(work, layer, edit)
    return change_document(work, layer, LayerBody, version, label, _changes(found, made)), report


def changes_of_layer_edit(work: Work, layer: str, edit: Edit) -> list[dict[str, Any]]:
    """What an edit would change in the layer: for a preview."""
    found, made, _ = _edited(work, layer, edit)
    return _changes(found, made)


def changes_of_strokes(
    work: Work, layer: Document[LayerBody], strokes: Strokes, wish: ShotWish | None = None
) -> list[dict[str, Any]]:
    """The changes of a layer by which the face becomes what strokes say, channel by channel and from the first frame of each on."""
    kit = _Kit(work, layer, {}, wish)
    made: Made = {}
    for channel, parts in strokes.items():
        held = kit.held.get(channel)
        for first, curve in parts:
            held = kit.case(channel, held, frozenset()).with_curve(first, curve)[channel]
        made[channel] = held
    return _changes(layer, made)


class _Kit:
    """What the cases of one layer's channels are made of."""

    def __init__(self, work: Work, layer: Document[LayerBody], edit: Edit, wish: ShotWish | None = None) -> None:
        body = layer.body
        if body.locked:
            raise InputError(f"the layer {body.name} is locked", hint="Unlock it first")
        self.layer, self.edit = layer, edit
        self.prepared = prepare_role(work, body.shot, body.role, wish)
        self.held = {c: Held(MODE[body.does], keys) for c, keys in body.layer.keys.items()}
        self.sides: dict[str, str] = {}
        self.names: tuple[str, ...] = CHANNELS
        if body.character:
            character = acting_character(self.prepared, body.character)
            self.names = channels_of(character)
            self.sides = rig_sides(character, self.prepared.sheet)
        self.raw = (
            self.prepared.graph.raw.result(work.cache) if not body.character else self.prepared.rig_raw(self._about)
        )
        self.now = self._with({})
        self.beneath = self._with({layer.id: replace(body.layer, keys={})})

    @cached_property
    def _about(self) -> tuple[str, ...]:
        """Channels of the rig that the edit is about, with those of their rotations and their other sides."""
        channels = self.edit.get("channels")
        named = {*self.held, *(channels if isinstance(channels, Mapping) else ())} & set(self.names)
        named |= {self.sides[n] for n in named if n in self.sides}
        return in_order(named.union(*rotations(named)))

    def _with(self, layers: Mapping[str, Layer]) -> Channels:
        """The channels with all layers, some of them as they are given."""
        if self.layer.body.character:
            return self.prepared.rig_with(layers, self._about)
        return self.prepared.tidied_with(layers)

    def case(self, channel: str, own: Held | None, chosen: frozenset[int]) -> LayerCase:
        """The case of a channel that holds these keys."""
        raw, beneath, now = (_column(c, channel) for c in (self.raw, self.beneath, self.now))
        column = Column(raw, beneath, now, float(self.now.rate))
        other = self.sides.get(channel)
        return LayerCase(self.layer.body.does, self.face, channel, own, chosen, self.held, column, self.edit, other)

    def face(self, channel: str, keys: Keys) -> Floats:
        """(frames,) a channel with all layers, as it would be with other keys in this one."""
        own = self.layer.body.layer
        return _column(self._with({self.layer.id: replace(own, keys={**own.keys, channel: keys})}), channel)


def _edited(work: Work, layer: str, edit: Edit) -> tuple[Document[LayerBody], Made, dict[str, Any]]:
    with work.store.snapshot() as unit:
        found = document_for(work, unit, layer, LayerBody)
    kit = _Kit(work, found, edit)
    made, report = edited_keys(_within_reach(found.body, edit), kit.names, kit.held, kit.case)
    return found, made, report


def _within_reach(body: LayerBody, edit: Edit) -> Edit:
    """The edit on those of its channels that the layer reaches; raises InputError where there is none."""
    channels = edit.get("channels")
    if not isinstance(channels, Mapping):
        return edit
    reached = {c: k for c, k in channels.items() if c not in REGION or body.character or body.layer.reaches(c)}
    if channels and not reached:
        on = ", ".join(sorted(body.layer.regions))
        raise InputError(
            f"the layer {body.name} reaches {on}, not {', '.join(channels)}"[:200],
            hint="Let it reach further, or work in another",
        )
    return {**edit, "channels": reached}


def _column(channels: Channels, channel: str) -> Floats:
    return widened(channels, [channel]).column(channel)


def _changes(layer: Document[LayerBody], made: Made) -> list[dict[str, Any]]:
    return table_changes(layer.body.layer.keys, {c: held.keys if held else None for c, held in made.items()})
