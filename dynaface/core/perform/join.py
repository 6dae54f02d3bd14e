"""The body take on the character's skeleton, at the frames of the face take."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from fractions import Fraction

import numpy as np
from numpy.typing import NDArray

from dynaface.core.body.kernels import turned_by
from dynaface.core.body.rotations import Array, inverse
from dynaface.core.body.skeleton import Motion, Skeleton, at_rest
from dynaface.core.clock.timecode import Timecode
from dynaface.core.contact.by_hand import with_set
from dynaface.core.contact.feet import has_feet, rest_ground
from dynaface.core.contact.find_feet import FootContacts, Spans, find_foot_contacts, retimed
from dynaface.core.contact.find_hands import find_touches
from dynaface.core.contact.hold_feet import hold_feet
from dynaface.core.contact.touching import Touching, touches_with_set, touching_of
from dynaface.core.curves.channels import Channels
from dynaface.core.match.hands import with_hands
from dynaface.core.match.match_settings import matching_by, rest_of
from dynaface.core.match.reach import Reach, arrived
from dynaface.core.match.retarget import body_scale, retarget, to_local, travelling_joint
from dynaface.core.match.travel import GOING, started_here, travelled
from dynaface.core.perform.join_settings import JoinSettings
from dynaface.core.sync.timecode_offset import timecode_offset


@dataclass(frozen=True)
class RetargetedBody:
    """The body alone, at the take's frames: world turns and local rotations (frames, joints, 4) of the character's
    skeleton, root travel (frames, 3), joints that move, and the joint that travels ("" for none). touching: what its hands are to touch
    once its head is turned, None for nothing.
    """

    turns: Array
    local: Array
    root: Array
    moving: frozenset[str]
    root_joint: str
    touching: Touching | None = None

    @property
    def frames(self) -> int:
        """Number of frames."""
        return len(self.root)

    def rows(self, own: slice | NDArray[np.bool_]) -> "RetargetedBody":
        """Some of its frames."""
        touching = self.touching and self.touching.rows(own)
        return replace(self, turns=self.turns[own], local=self.local[own], root=self.root[own], touching=touching)

    def frame(self, number: int) -> "RetargetedBody":
        """One of its frames."""
        return self.rows(slice(number, number + 1))


@dataclass(frozen=True)
class Moments:
    """When a take is looked at. seconds: (frames,) after its beginning, the first of them 0 where the body starts from there; rate: of the
    take, of which nudges are frames; timecode: of its beginning, where it has one.
    """

    seconds: Array
    rate: Fraction
    timecode: Timecode | None = None

    def into(self, motion: Motion, nudge: float) -> Array:
        """(frames,) seconds of a motion that a nudge moves later by frames of the take."""
        return self.seconds + (timecode_offset(self.timecode, motion.timecode) or 0.0) - nudge / float(self.rate)


def moments_of(channels: Channels) -> Moments:
    """Every frame of a face take."""
    return Moments(np.arange(channels.frames) / float(channels.rate), channels.rate, channels.timecode)


def retarget_body(
    channels: Channels,
    target: Skeleton | None,
    body: Motion | None,
    settings: JoinSettings,
    contacts: Sequence[FootContacts] = (),
    hands: Motion | None = None,
) -> RetargetedBody:
    """The body take, which is tidied already, on the character's skeleton at the frames of the channels; without one the character stands. Without a
    skeleton there are no joints. contacts: of the body take as it is tidied, where its feet are to stand; hands: another take for the fingers.
    """
    moments = moments_of(channels)
    moved = carried_body(moments, target, body, settings, hands)
    return standing_body(moved, moments, target, body, settings, contacts)


def standing_body(
    moved: RetargetedBody,
    moments: Moments,
    target: Skeleton | None,
    body: Motion | None,
    settings: JoinSettings,
    contacts: Sequence[FootContacts],
) -> RetargetedBody:
    """The body with its feet standing where they are to."""
    if target is None or body is None or not len(moments.seconds):
        return moved
    stood = stands_at(moments, target, body, settings, contacts)
    return with_feet(moved, target, stood, moments.rate)


def with_feet(moved: RetargetedBody, target: Skeleton, stood: Sequence[FootContacts], rate: Fraction) -> RetargetedBody:
    """The body with its feet held in contacts that are in its own frames; as it is where there are none."""
    if not stood:
        return moved
    held = hold_feet(Motion(target, moved.local, moved.root, rate), stood)
    return replace(moved, turns=turns_of_local(target, held.local), local=held.local, root=held.root)


def carried_body(
    moments: Moments,
    target: Skeleton | None,
    body: Motion | None,
    settings: JoinSettings,
    hands: Motion | None = None,
) -> RetargetedBody:
    """The body, which is tidied already, at some moments, with feet as they come."""
    frames = len(moments.seconds)
    if target is None:
        return still_body(None, frames)
    if body is None:
        return _with_hands(still_body(target, frames), target, moments, hands, settings)
    source = rest_of(body, settings.match)
    carried = matching_by(source, target, settings.match)
    seen = body.at(moments.into(body, settings.nudge))
    turns, root = retarget(source, *seen, target, carried)
    travels, reach = travelling_joint(source, carried.matches), Reach(settings.arms, settings.legs)
    if any(reach) and frames:
        places = source.pose(*seen)[1]
        turns = turns_of_local(target, arrived(source, places, target, to_local(target, turns), root, carried, reach))
    if travels and frames:
        if settings.start:
            turns, root = started_here(turns, root, target.index(travels))
        root = travelled(root, settings.travel, body_scale(source, target, travels, carried.matches[travels]))
    top = target.top(travels) if travels else ""
    moved = RetargetedBody(turns, to_local(target, turns), root, frozenset(carried.matches), top)
    return _with_hands(moved, target, moments, hands, settings)


def still_body(target: Skeleton | None, frames: int) -> RetargetedBody:
    """A character that stands at rest; without a skeleton there are no joints."""
    if target is None:
        none = np.zeros((frames, 0, 4))
        return RetargetedBody(none, none, np.zeros((frames, 3)), frozenset(), "")
    turns = np.broadcast_to([0.0, 0.0, 0.0, 1.0], (frames, len(target.names), 4))
    local, root = at_rest(target, frames)
    return RetargetedBody(turns, local, root, frozenset(), "")


def _with_hands(
    moved: RetargetedBody, target: Skeleton, moments: Moments, hands: Motion | None, settings: JoinSettings
) -> RetargetedBody:
    """The body with the fingers of another take, if there is one."""
    if hands is None or settings.hands == "none" or not len(moments.seconds):
        return moved
    carried = matching_by(hands.skeleton, target, settings.hands_match)
    seen = hands.at(moments.into(hands, settings.hands_nudge))
    fingers, _ = retarget(hands.skeleton, *seen, target, carried)
    turns, joints = with_hands(target, moved.turns, fingers, carried, settings.hands)
    return replace(moved, turns=turns, local=to_local(target, turns), moving=moved.moving | joints)


def turns_of_local(target: Skeleton, local: Array) -> Array:
    """World turns from rest (frames, joints, 4) of local rotations."""
    rotations, _ = target.pose(local, np.zeros((len(local), 3)))
    out = np.empty_like(rotations)
    turned_by(rotations, inverse(target.global_rest()[0]), out)
    return out


def begins_in_body(channels: Channels, body: Motion, settings: JoinSettings) -> float:
    """Seconds into a body take at which the face take begins."""
    return float(Moments(np.zeros(1), channels.rate, channels.timecode).into(body, settings.nudge)[0])


def nudge_to(channels: Channels, code: Timecode | None, after: float) -> float:
    """The nudge with which a body take, whose first frame has a timecode or None, begins `after` seconds into the face take."""
    return (after + (timecode_offset(channels.timecode, code) or 0.0)) * float(channels.rate)


def contacts_of(body: Motion | None) -> tuple[FootContacts, ...]:
    """When the feet of a body take stand, in its own frames; () without one, or without two legs."""
    return find_foot_contacts(body) if body is not None and has_feet(body.skeleton) else ()


def touches_of(body: Motion | None) -> dict[str, Spans]:
    """When the hands of a body take touch, in its own frames; {} without one."""
    return find_touches(body) if body is not None else {}


def with_touches(
    moved: RetargetedBody, moments: Moments, body: Motion | None, settings: JoinSettings, found: Mapping[str, Spans]
) -> RetargetedBody:
    """The body with what its hands are to touch; found: when those of the body take do."""
    if body is None or not settings.touch:
        return moved
    spans = touches_with_set(found, settings.contacts, float(body.rate), body.frames)
    return replace(moved, touching=touching_of(body, spans, moments.into(body, settings.nudge)))


def stands_at(
    moments: Moments, target: Skeleton, body: Motion, settings: JoinSettings, contacts: Sequence[FootContacts]
) -> tuple[FootContacts, ...]:
    """When the feet of a character stand, in frames of the moments, by contacts of its body take and those set by hand; () where feet are
    left as they come. Where the root does not travel, feet walk on the spot: nothing stands.
    """
    if not (settings.feet and settings.travel in GOING and contacts and has_feet(target)):
        return ()
    contacts = with_set(contacts, settings.contacts, float(body.rate), body.frames)
    seconds = moments.into(body, settings.nudge)
    return retimed(contacts, float(body.rate), seconds, rest_ground(target) + settings.floor)
