"""Ending a maker: what it makes now becomes keys of its layer."""

from dataclasses import replace
from uuid import uuid4

from dynaface.core.curves.keys import Keys, evaluate_keys
from dynaface.core.documents.changes import path_of
from dynaface.core.documents.model.shot import LayerBody
from dynaface.core.errors import InputError, NotFoundError
from dynaface.core.evaluate.shot import on_layer
from dynaface.core.layers.maker import keys_of_made, known_makers
from dynaface.core.records.records import Document
from dynaface.services.edit_document import change_document
from dynaface.services.shot.evaluate_shot import prepare_role
from dynaface.services.work import Work, document_for


def end_maker(work: Work, layer: str, version: int, maker: str) -> Document[LayerBody]:
    """Keys in place of a maker, on top of those that the layer holds; it can be undone. Raises InputError in a layer that does not add."""
    with work.store.snapshot() as unit:
        found = document_for(work, unit, layer, LayerBody)
    body = found.body
    if maker not in body.makers:
        raise NotFoundError("there is no such maker in this layer")
    if body.does != "add":
        raise InputError("only in a layer that adds can a maker become keys", hint="Move it to such a layer")
    prepared = prepare_role(work, body.shot, body.role)
    beneath = prepared.graph.weakened
    for other in prepared.heard:
        if other.id == layer:
            break
        beneath = on_layer(beneath, other.body.layer)
    below, placed = beneath.result(work.cache), body.makers[maker].placed
    made = known_makers()[placed.maker].make(below, placed.parameters)
    changes: list[dict[str, object]] = [{"path": path_of("makers", maker), "remove": True}]
    held = body.layer.keys
    whole = {c: v + evaluate_keys(held[c], below.frames) if c in held else v for c, v in made.items()}
    for channel, keys in keys_of_made(whole, float(below.rate)).items():
        changes.append({"path": path_of("keys", channel), "value": _rows(keys)})
    return change_document(work, layer, LayerBody, version, f"make keys of {placed.maker}"[:120], changes)


def _rows(keys: Keys) -> dict[str, object]:
    named = (replace(k, id=uuid4().hex[:12]) for k in keys)
    return {k.id: k.plain() for k in named}
