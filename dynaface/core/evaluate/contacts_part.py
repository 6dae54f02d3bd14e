"""A stretch of a take with contacts as they are wished for, worked out from what is there already."""

from dataclasses import dataclass, replace
from typing import NamedTuple

import numpy as np

from dynaface.core.body.rotations import Array
from dynaface.core.body.skeleton import Motion, Skeleton
from dynaface.core.cast.character import Character
from dynaface.core.cast.sheet import CastSheet
from dynaface.core.contact.by_hand import of_sides
from dynaface.core.contact.changed_feet import changed_frames, held_part
from dynaface.core.contact.find_feet import FootContacts, Spans
from dynaface.core.contact.find_hands import TOUCHES
from dynaface.core.contact.hold_hands import lead_of_hands
from dynaface.core.evaluate.cache import Cache
from dynaface.core.evaluate.part import MARGIN, RolePart, cut_channels, kept_part
from dynaface.core.evaluate.take import TakeGraph
from dynaface.core.perform.join import RetargetedBody, moments_of, stands_at, turns_of_local, with_touches
from dynaface.core.perform.join_settings import JoinSettings
from dynaface.core.perform.joint_curves import joint_curves
from dynaface.core.perform.perform import head_part, perform


@dataclass(frozen=True)
class JoinedTake:
    """What a take's graph was made of, as far as its body is concerned. body: as it is tidied; contacts, touches: what is found in it;
    joints: whose curves are asked for.
    """

    graph: TakeGraph
    character: Character
    sheet: CastSheet
    body: Motion
    contacts: tuple[FootContacts, ...]
    touches: dict[str, Spans]
    joints: tuple[str, ...] = ()


class Stretch(NamedTuple):
    """Frames first..stop - 1; none where they are equal."""

    first: int
    stop: int


def contacts_part(take: JoinedTake, before: JoinSettings, after: JoinSettings, cache: Cache) -> RolePart | None:
    """The stretch of a take that changes when its contacts become others; before: those that its graph has. None where that is most of it."""
    graph, rig = take.graph, take.character.skeleton
    if rig is None or graph.carried is None or graph.body is None or graph.cast is None:
        return None
    channels = graph.raw.result(cache)
    moments, whole = moments_of(channels), graph.body.result(cache)
    carried = graph.carried.result(cache)
    free = Motion(rig, carried.local, carried.root, channels.rate)
    stood = [stands_at(moments, rig, take.body, s, take.contacts) for s in (before, after)]
    feet = changed_frames(stood[0], stood[1], free)
    if feet is None:
        return None
    wished = whole
    if of_sides(before.contacts, TOUCHES) != of_sides(after.contacts, TOUCHES):
        wished = with_touches(whole, moments, take.body, after, take.touches)
    hands = _touched_otherwise(whole, wished, lead_of_hands(channels.rate))
    moved = [s for s in (Stretch(*feet), hands) if s.stop > s.first] or [Stretch(0, 1)]
    first, stop = min(s.first for s in moved), max(s.stop for s in moved)
    if stop - first + 2 * MARGIN > channels.frames // 2:
        return None
    low, high = max(first - MARGIN, 0), min(stop + MARGIN, channels.frames)
    body = wished.rows(slice(low, high))
    if feet[1] > feet[0]:
        body = _stood(body, held_part(free, stood[1], *feet), rig, feet[0] - low)
    part = _performed(take, body, after, cache, low, high)
    return kept_part(part, first, stop)


def _touched_otherwise(whole: RetargetedBody, wished: RetargetedBody, lead: int) -> Stretch:
    was, now = whole.touching, wished.touching
    if was is None or now is None:
        return Stretch(0, 0)
    other = (
        (was.on != now.on).any(axis=1)
        | (was.way != now.way).any(axis=(1, 2))
        | (was.places != now.places).any(axis=(1, 2))
    )
    frames = np.flatnonzero(other)
    if not len(frames):
        return Stretch(0, 0)
    return Stretch(max(frames[0] - 2 * lead, 0), min(frames[-1] + 1 + 2 * lead, len(other)))


def _stood(body: RetargetedBody, held: Motion, rig: Skeleton, at: int) -> RetargetedBody:
    """A body with frames from `at` on as feet hold them."""
    own = slice(at, at + held.frames)
    turns, local, root = body.turns.copy(), body.local.copy(), body.root.copy()
    sign = np.where((local[max(at - 1, 0)] * held.local[0]).sum(axis=1) < 0, -1.0, 1.0)
    local[own], root[own] = held.local * sign[:, None], held.root
    turns[own] = turns_of_local(rig, held.local)
    return replace(body, turns=turns, local=local, root=root)


def _performed(
    take: JoinedTake, body: RetargetedBody, settings: JoinSettings, cache: Cache, low: int, high: int
) -> RolePart:
    graph, own = take.graph, slice(low, high)
    assert graph.cast is not None
    assert take.character.skeleton is not None
    tidied = graph.tidied.result(cache)
    weight: Array = settings.head_weight.at(tidied.frames)[own]
    channels, cast = cut_channels(tidied, own), graph.cast.result(cache).rows(own)
    frame = graph.frame.result(cache) if graph.frame else None
    steady = settings.look == "world"
    made = perform(channels, take.character, cast, body, head_part(take.sheet), weight, settings.lean, steady, frame)
    joints = joint_curves(made, take.character.skeleton, take.joints) if take.joints else None
    return RolePart(low, channels, cast, made, joints=joints)
