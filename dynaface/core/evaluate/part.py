"""A stretch of a role with layers as they are wished for, worked out from what is there already: what a drag shows does not take
longer in a long shot.
"""

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from dynaface.core.cast.apply import CastMotion, apply_sheet
from dynaface.core.cast.character import Character
from dynaface.core.cast.sheet import CastSheet
from dynaface.core.curves.channels import Channels
from dynaface.core.evaluate.cache import Cache
from dynaface.core.evaluate.shot import RoleGraph
from dynaface.core.layers.changed import changed_frames
from dynaface.core.layers.layer import Layer, apply_layer
from dynaface.core.perform.join import RetargetedBody
from dynaface.core.perform.perform import Performance, head_part, perform

MARGIN = 90  # frames to either side that a cast is worked out with: contacts come and go over some frames
KEPT = 45  # of them are given: farther out the missing frames could be seen


@dataclass(frozen=True)
class RolePart:
    """first: the frame of the role at which it begins; tidied, cast, performed: as in RoleGraph, of this stretch."""

    first: int
    tidied: Channels
    cast: CastMotion | None = None
    performed: Performance | None = None


def changed_part(
    graph: RoleGraph, before: Sequence[Layer], after: Sequence[Layer], character: Character | None, sheet: CastSheet, cache: Cache
) -> RolePart | None:  # fmt: skip
    """The stretch of a role that changes when its layers (bottom up) become others; graph: with the layers as they were. None where that
    is most of it, or where it cannot be worked out from a stretch: makers look at all frames.
    """
    moved = [n for n, (a, b) in enumerate(zip(before, after, strict=True)) if a.key != b.key]
    if len(before) != len(graph.layered) or not moved or any(n.makers for n in after[moved[0] :]):
        return None
    whole = graph.tidied.result(cache)
    spans = [changed_frames(before[n], after[n], whole.frames) for n in moved]
    first, stop = min(a for a, _ in spans), max(b for _, b in spans)
    if not 0 < stop - first + 2 * MARGIN < whole.frames // 2:
        return None
    low, high = max(first - MARGIN, 0), min(stop + MARGIN, whole.frames)
    beneath = ([graph.weakened, *graph.layered][moved[0]]).result(cache)
    tidied = replace(beneath, values=beneath.values[low:high])
    for layer in after[moved[0] :]:
        tidied = apply_layer(tidied, layer, first=low)
    if tidied.names != whole.names:
        return None
    return _kept(
        _on_character(graph, tidied, character, sheet, low, cache), max(first - KEPT, 0), min(stop + KEPT, whole.frames)
    )


def _on_character(graph: RoleGraph, tidied: Channels, character: Character | None, sheet: CastSheet, low: int, cache: Cache
                  ) -> RolePart:  # fmt: skip
    if character is None or graph.still is None:
        return RolePart(low, tidied)
    cast = apply_sheet(tidied, character, sheet)
    still = graph.still.result(cache)
    part = slice(low, low + tidied.frames)
    body = RetargetedBody(still.turns[part], still.local[part], still.root[part], still.moving, still.root_joint)
    return RolePart(low, tidied, cast, perform(tidied, character, cast, body, head_part(sheet), None))


def _kept(part: RolePart, first: int, stop: int) -> RolePart:
    """The part from one frame of the role up to another."""
    own = slice(first - part.first, stop - part.first)
    tidied = replace(part.tidied, values=part.tidied.values[own])
    if part.cast is None or part.performed is None:
        return RolePart(first, tidied)
    made = part.performed
    cast = replace(part.cast, weights=part.cast.weights[own])
    shifts = {joint: np.asarray(shift)[own] for joint, shift in made.shifts.items()}
    performed = replace(made, channels=tidied, cast=cast, local=made.local[own], root=made.root[own], shifts=shifts)
    return RolePart(first, tidied, cast, performed)
