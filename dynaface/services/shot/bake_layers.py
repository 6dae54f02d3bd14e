"""Baking a role: what its layers make becomes keys of one layer, or a take of its own; the layers stay and can be had back."""

import numpy as np

from dynaface.core import checks
from dynaface.core.curves.reduce import TOLERANCE, reduce
from dynaface.core.documents.changes import path_of
from dynaface.core.documents.model.layer import LayerBody
from dynaface.core.documents.model.record import parse
from dynaface.core.documents.model.take import Sources, TakeBody, new_take
from dynaface.core.errors import InputError
from dynaface.core.records.records import Document
from dynaface.core.shapes.standard import full_range
from dynaface.services.edit_document import change_document
from dynaface.services.key_rows import key_rows
from dynaface.services.shot.evaluate_shot import prepare_role
from dynaface.services.shot.make_shot import add_layer
from dynaface.services.take.find_take_snags import count_snags
from dynaface.services.take.store_curves import store_curves
from dynaface.services.work import Work, add_document, allow

NAME, SOFT = "baked", 4  # frames over which a baked range comes in and goes
MOVED = 1e-5  # by which a channel differs that layers change


def bake_layers(
    work: Work, shot: str, role: str, within: tuple[int, int] | None = None, tolerance: float = TOLERANCE
) -> Document[LayerBody]:
    """A layer on top that holds, as keys within a tolerance, what the layers make of the capture: everywhere, where it alone counts from
    then on, or within a range of frames, where it lies over them. Raises InputError where they change nothing.
    """
    checks.within("tolerance", tolerance, 0.0005, 0.2)
    prepared = prepare_role(work, shot, role)
    result = prepared.graph.tidied.result(work.cache)
    raw = prepared.graph.raw.result(work.cache)
    first, last = _frames(within, result.frames)
    part = slice(first, last + 1)
    changed = [n for n in result.names if _differs(result.column(n)[part], raw.column(n)[part])]
    if not changed:
        raise InputError("the layers change nothing there", hint="There is nothing to bake")
    made = add_layer(work, shot, role, NAME, "replace", [])
    changes: list[dict[str, object]] = []
    for channel in changed:
        own = reduce(result.column(channel), float(result.rate), tolerance * full_range(channel)).keys
        kept = tuple(k for k in own if first - SOFT - 1 <= k.frame <= last + SOFT + 1) if within else own
        changes.append({"path": path_of("keys", channel), "value": key_rows(kept or own)})
    if within:
        changes.append({"path": "weight", "value": {"value": 1.0, "keys": _weight(first, last)}})
    else:
        changes.append({"path": "solo", "value": True})
    return change_document(work, made.id, LayerBody, made.version, "bake to keys", changes)


def bake_take(work: Work, shot: str, role: str) -> Document[TakeBody]:
    """What a role does with all its layers as the curves of a new take, at the shot's rate."""
    prepared = prepare_role(work, shot, role)
    result = prepared.graph.tidied.result(work.cache)
    found, own = prepared.snapshot.documents.shot, prepared.snapshot.role
    if np.isnan(result.values).all():
        raise InputError("this role has no curves", hint="Put a clip in first")
    source = store_curves(work, found.production, f"{found.body.name} baked"[:120], result, {"baked": shot})
    body = new_take(f"{found.body.name} baked"[:80], own.performer).model_copy(
        update={"sources": parse(Sources, {"curves": source.id}), "character": own.character}
    )
    with work.store.unit() as unit:
        allow(unit, found.production, work.person)
        take = add_document(unit, found.production, body)
    count_snags(work, take.id)
    return take


def _frames(within: tuple[int, int] | None, frames: int) -> tuple[int, int]:
    first, last = within or (0, frames - 1)
    if not 0 <= first <= last < frames:
        raise InputError(f"frames {first} to {last} are no stretch of a shot of {frames} frames")
    return first, last


def _differs(one: np.ndarray, other: np.ndarray) -> bool:
    """Whether two courses of a channel are not the same; a gap in both is."""
    return bool((~np.isclose(one, other, rtol=0, atol=MOVED, equal_nan=True)).any())


def _weight(first: int, last: int) -> dict[str, list[object]]:
    at = ((first - SOFT, 0.0), (first, 1.0), (last, 1.0), (last + SOFT, 0.0))
    return {f"k{n}": [float(frame), value, 0.0, 0.0, "smooth"] for n, (frame, value) in enumerate(at)}
