"""A stretch of a role with layers as they are wished for, worked out from what is there already: what a drag shows does not take
longer in a long shot.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from typing import NamedTuple

from dynaface.core.body.rotations import Array
from dynaface.core.cast.apply import CastMotion, cast_channels, limited
from dynaface.core.cast.character import Character
from dynaface.core.cast.rig_curves import rig_curves, with_rig_curves
from dynaface.core.cast.sheet import CastSheet
from dynaface.core.curves.channels import Channels
from dynaface.core.evaluate.cache import Cache
from dynaface.core.evaluate.shot import UNTOUCHED, OnRig, RoleGraph, touched_channels
from dynaface.core.layers.changed import changed_frames
from dynaface.core.layers.layer import Layer, apply_layer
from dynaface.core.layers.weight import Amounts
from dynaface.core.perform.head_rules import HeadFrame
from dynaface.core.perform.held_props import with_arms
from dynaface.core.perform.join import RetargetedBody
from dynaface.core.perform.perform import Performance, head_part, perform
from dynaface.core.perform.whole_turns import turned_joints, with_whole_turns

MARGIN = 90  # frames to either side that a cast is worked out with: contacts come and go over some frames
KEPT = 45  # of them are given: farther out the missing frames could be seen


class RoleLayers(NamedTuple):
    """The layers of a role that count, bottom up: on the performance, and on the character's rig."""

    face: Sequence[Layer]
    on_rig: OnRig = UNTOUCHED


class Carried(NamedTuple):
    """What carries a face: body, head and frame of the graph; arms: as they hold props."""

    body: RetargetedBody
    share: Amounts | None
    frame: HeadFrame | None
    arms: Mapping[int, Array]


@dataclass(frozen=True)
class RolePart:
    """first: the frame of the role, or take, at which it begins; tidied, cast, performed, rig_raw, rig, joints: as in its graph, of this
    stretch.
    """

    first: int
    tidied: Channels
    cast: CastMotion | None = None
    performed: Performance | None = None
    rig_raw: Channels | None = None
    rig: Channels | None = None
    joints: Channels | None = None


def changed_part(
    graph: RoleGraph, before: RoleLayers, after: RoleLayers, character: Character | None, sheet: CastSheet, cache: Cache
) -> RolePart | None:  # fmt: skip
    """The stretch of a role that changes when its layers become others; graph: with the layers as they were. None where that is most of
    it, or where it cannot be worked out from a stretch: makers look at all frames.
    """
    moved, touched = _moved(before.face, after.face), _moved(before.on_rig.touchups, after.on_rig.touchups)
    if len(before.face) != len(graph.layered) or not (moved or touched):
        return None
    if moved and any(n.makers for n in after.face[moved[0] :]):
        return None
    if touched and graph.props is not None:
        return None  # an arm that moves takes props along, and other arms with them
    whole = graph.tidied.result(cache)
    spans = [changed_frames(before.face[n], after.face[n], whole.frames) for n in moved]
    was, now = before.on_rig.touchups, after.on_rig.touchups
    spans += [changed_frames(was[n], now[n], whole.frames) for n in touched]
    first, stop = min(a for a, _ in spans), max(b for _, b in spans)
    if not 0 < stop - first + 2 * MARGIN < whole.frames // 2:
        return None
    low, high = max(first - MARGIN, 0), min(stop + MARGIN, whole.frames)
    beneath = (([graph.weakened, *graph.layered][moved[0]]) if moved else graph.tidied).result(cache)
    tidied = replace(beneath, values=beneath.values[low:high])
    for layer in after.face[moved[0] :] if moved else ():
        tidied = apply_layer(tidied, layer, first=low)
    if tidied.names != whole.names:
        return None
    part = RolePart(low, tidied)
    if character is not None and graph.body is not None:
        free = (
            cast_channels(tidied, character, sheet)
            if moved or graph.free is None
            else graph.free.result(cache).rows(slice(low, high))
        )
        own = slice(low, high)
        share = graph.head.result(cache)[own] if graph.head else None
        frame = graph.frame.result(cache) if graph.frame else None
        arms = graph.props.result(cache).arms.get(graph.role, {}) if graph.props else {}
        carried = Carried(graph.body.result(cache).rows(own), share, frame, arms)
        part = _on_character(part, free, after.on_rig, carried, character, sheet)
    return kept_part(part, max(first - KEPT, 0), min(stop + KEPT, whole.frames))


def _moved(before: Sequence[Layer], after: Sequence[Layer]) -> list[int]:
    """Numbers, bottom up, of the layers that became others."""
    return [n for n, (a, b) in enumerate(zip(before, after, strict=True)) if a.key != b.key]


def _on_character(part: RolePart, free: CastMotion, on_rig: OnRig, carried: Carried, character: Character,
                  sheet: CastSheet) -> RolePart:  # fmt: skip
    """The part with the character; free: its cast before touch-up layers and limits; carried: of the same frames."""
    rate, plain = part.tidied.rate, limited(free, sheet)
    cast = plain
    if on_rig.touchups:
        names = touched_channels(on_rig.touchups)
        free = with_whole_turns(free, carried.body, character.skeleton, turned_joints(names))
        curves = rig_curves(free, names, rate)
        for layer in on_rig.touchups:
            curves = apply_layer(curves, layer, first=part.first)
        cast = limited(with_rig_curves(free, curves, character), sheet)
    steady = on_rig.look == "world"
    made = perform(
        part.tidied, character, cast, carried.body, head_part(sheet), carried.share, on_rig.lean, steady, carried.frame
    )
    made = with_arms(made, character.skeleton, carried.arms, part.first)
    joints = turned_joints(on_rig.shown)
    whole = [with_whole_turns(motion, carried.body, character.skeleton, joints) for motion in (plain, cast)]
    shown = [rig_curves(motion, on_rig.shown, rate) if on_rig.shown else None for motion in whole]
    return RolePart(part.first, part.tidied, cast, made, shown[0], shown[1])


def kept_part(part: RolePart, first: int, stop: int) -> RolePart:
    """The part from one frame of the role up to another."""
    own = slice(first - part.first, stop - part.first)
    tidied = cut_channels(part.tidied, own)
    if part.cast is None or part.performed is None:
        return RolePart(first, tidied)
    performed = part.performed.rows(own)
    shown = [curves and cut_channels(curves, own) for curves in (part.rig_raw, part.rig, part.joints)]
    return RolePart(first, tidied, part.cast.rows(own), performed, *shown)


def cut_channels(channels: Channels, own: slice) -> Channels:
    """Some frames of channels."""
    return replace(channels, values=channels.values[own])
