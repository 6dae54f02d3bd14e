"""Ending a maker: what it makes now becomes keys of its layer."""

from dataclasses import dataclass

from dynaface.core.curves.channels import Channels
from dynaface.core.curves.keys import evaluate_keys
from dynaface.core.documents.changes import path_of
from dynaface.core.documents.model.layer import LayerBody
from dynaface.core.errors import InputError, NotFoundError
from dynaface.core.evaluate.shot import on_layer
from dynaface.core.layers.around import Around
from dynaface.core.layers.maker import keys_of_made, known_makers
from dynaface.core.records.records import Document
from dynaface.services.edit_document import change_document
from dynaface.services.key_rows import key_rows
from dynaface.services.shot.evaluate_shot import prepare_role
from dynaface.services.work import Work, document_for


@dataclass(frozen=True)
class Beneath:
    """A layer with a maker, what lies beneath the layer, and what is around it."""

    body: LayerBody
    channels: Channels
    around: Around


def beneath_maker(work: Work, layer: str, maker: str) -> Beneath:
    """What a maker of a layer is given; raises NotFoundError where there is none."""
    with work.store.snapshot() as unit:
        body = document_for(work, unit, layer, LayerBody).body
    if maker not in body.makers:
        raise NotFoundError("there is no such maker in this layer")
    prepared = prepare_role(work, body.shot, body.role)
    beneath = prepared.graph.weakened
    for other in prepared.heard:
        if other.id == layer:
            break
        beneath = on_layer(beneath, other.body.layer, prepared.around)
    return Beneath(body, beneath.result(work.cache), prepared.around.result(work.cache))


def end_maker(work: Work, layer: str, version: int, maker: str) -> Document[LayerBody]:
    """Keys in place of a maker, on top of those that the layer holds; it can be undone. Raises InputError in a layer that does not add."""
    beneath = beneath_maker(work, layer, maker)
    body, below = beneath.body, beneath.channels
    if body.does != "add":
        raise InputError("only in a layer that adds can a maker become keys", hint="Move it to such a layer")
    placed = body.makers[maker].placed
    made = known_makers()[placed.maker].make(below, placed.parameters, beneath.around)
    changes: list[dict[str, object]] = [{"path": path_of("makers", maker), "remove": True}]
    held = body.layer.keys
    whole = {c: v + evaluate_keys(held[c], below.frames) if c in held else v for c, v in made.items()}
    for channel, keys in keys_of_made(whole, float(below.rate)).items():
        changes.append({"path": path_of("keys", channel), "value": key_rows(keys)})
    return change_document(work, layer, LayerBody, version, f"make keys of {placed.maker}"[:120], changes)
