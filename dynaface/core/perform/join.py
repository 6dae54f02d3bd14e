"""The body take on the character's skeleton, at the frames of the face take."""

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from dynaface.core.body.kernels import turned_by
from dynaface.core.body.rotations import Array, inverse
from dynaface.core.body.skeleton import Motion, Skeleton, at_rest
from dynaface.core.clock.timecode import Timecode
from dynaface.core.contact.by_hand import with_set
from dynaface.core.contact.feet import has_feet, rest_ground
from dynaface.core.contact.find_feet import FootContacts, find_foot_contacts, retimed
from dynaface.core.contact.hold_feet import hold_feet
from dynaface.core.curves.channels import Channels
from dynaface.core.match.hands import with_hands
from dynaface.core.match.reach import Reach, arrived
from dynaface.core.match.rest import as_rest, held_pose, turns_of
from dynaface.core.match.retarget import Matching, body_scale, matching_of, retarget, to_local, travelling_joint
from dynaface.core.match.travel import GOING, started_here, travelled
from dynaface.core.perform.join_settings import JoinSettings
from dynaface.core.sync.timecode_offset import timecode_offset


@dataclass(frozen=True)
class RetargetedBody:
    """The body alone, at the take's frames: world turns and local rotations (frames, joints, 4) of the character's
    skeleton, root travel (frames, 3), joints that move, and the joint that travels ("" for none).
    """

    turns: Array
    local: Array
    root: Array
    moving: frozenset[str]
    root_joint: str


def matching(body: Skeleton, target: Skeleton, settings: JoinSettings) -> Matching:
    """By what a body, as `rest_of` has it, is carried onto a character: proposed, then by hand."""
    return matching_of(body, target, settings.matches, turns_of(settings.turns))


def rest_of(body: Motion, settings: JoinSettings) -> Skeleton:
    """The skeleton of a body take in the pose that counts as its rest."""
    if settings.calibration is not None:
        return as_rest(body.skeleton, held_pose(body, settings.calibration))
    kept = {joint: np.array(turn) for joint, turn in settings.rest.items()}
    return as_rest(body.skeleton, kept) if kept else body.skeleton


def retarget_body(
    channels: Channels,
    target: Skeleton | None,
    body: Motion | None,
    settings: JoinSettings,
    contacts: Sequence[FootContacts] = (),
    hands: Motion | None = None,
) -> RetargetedBody:
    """The body take on the character's skeleton at the frames of the channels; without one the character stands. Without a
    skeleton there are no joints. contacts: of the body take, where its feet are to stand; hands: another take for the fingers.
    """
    moved = carried_body(channels, target, body, settings, hands)
    return standing_body(moved, channels, target, body, settings, contacts)


def standing_body(
    moved: RetargetedBody,
    channels: Channels,
    target: Skeleton | None,
    body: Motion | None,
    settings: JoinSettings,
    contacts: Sequence[FootContacts],
) -> RetargetedBody:
    """The body with its feet standing where they are to. Where the root does not travel, feet walk on the spot: nothing stands."""
    asked = settings.feet and settings.travel in GOING and contacts and channels.frames
    if not asked or target is None or body is None or not has_feet(target):
        return moved
    stood = stands_in_take(channels, body, settings, contacts, rest_ground(target) + settings.floor)
    held = hold_feet(Motion(target, moved.local, moved.root, channels.rate), stood)
    return replace(moved, turns=_turns_of(target, held.local), local=held.local, root=held.root)


def carried_body(
    channels: Channels,
    target: Skeleton | None,
    body: Motion | None,
    settings: JoinSettings,
    hands: Motion | None = None,
) -> RetargetedBody:
    """The same with feet as they come."""
    frames = channels.frames
    if target is None:
        none = np.zeros((frames, 0, 4))
        return RetargetedBody(none, none, np.zeros((frames, 3)), frozenset(), "")
    if body is None:
        turns = np.broadcast_to([0.0, 0.0, 0.0, 1.0], (frames, len(target.names), 4))
        local, root = at_rest(target, frames)
        stood = RetargetedBody(turns, local, root, frozenset(), "")
        return _with_hands(stood, target, channels, hands, settings)
    source = rest_of(body, settings)
    carried = matching(source, target, settings)
    times = np.arange(frames) / float(channels.rate) + begins_in_body(channels, body, settings)
    seen = body.at(times)
    turns, root = retarget(source, *seen, target, carried)
    travels, reach = travelling_joint(source, carried.matches), Reach(settings.arms, settings.legs)
    if any(reach) and frames:
        places = source.pose(*seen)[1]
        turns = _turns_of(target, arrived(source, places, target, to_local(target, turns), root, carried, reach))
    if travels and frames:
        if settings.start:
            turns, root = started_here(turns, root, target.index(travels))
        root = travelled(root, settings.travel, body_scale(source, target, travels, carried.matches[travels]))
    top = target.top(travels) if travels else ""
    moved = RetargetedBody(turns, to_local(target, turns), root, frozenset(carried.matches), top)
    return _with_hands(moved, target, channels, hands, settings)


def _with_hands(
    moved: RetargetedBody, target: Skeleton, channels: Channels, hands: Motion | None, settings: JoinSettings
) -> RetargetedBody:
    """The body with the fingers of another take, if there is one."""
    if hands is None or settings.hands == "none" or not channels.frames:
        return moved
    carried = matching_of(hands.skeleton, target, settings.hands_matches, {})
    times = np.arange(channels.frames) / float(channels.rate) + _begins(channels, hands, settings.hands_nudge)
    fingers, _ = retarget(hands.skeleton, *hands.at(times), target, carried)
    turns, joints = with_hands(target, moved.turns, fingers, carried, settings.hands)
    return replace(moved, turns=turns, local=to_local(target, turns), moving=moved.moving | joints)


def _turns_of(target: Skeleton, local: Array) -> Array:
    """World turns from rest (frames, joints, 4) of local rotations."""
    rotations, _ = target.pose(local, np.zeros((len(local), 3)))
    out = np.empty_like(rotations)
    turned_by(rotations, inverse(target.global_rest()[0]), out)
    return out


def begins_in_body(channels: Channels, body: Motion, settings: JoinSettings) -> float:
    """Seconds into a body take at which the face take begins."""
    return _begins(channels, body, settings.nudge)


def _begins(channels: Channels, motion: Motion, nudge: float) -> float:
    """Seconds into a motion at which the face take begins; nudge: frames of the face take by which the motion is moved later."""
    return (timecode_offset(channels.timecode, motion.timecode) or 0.0) - nudge / float(channels.rate)


def nudge_to(channels: Channels, code: Timecode | None, after: float) -> float:
    """The nudge with which a body take, whose first frame has a timecode or None, begins `after` seconds into the face take."""
    return (after + (timecode_offset(channels.timecode, code) or 0.0)) * float(channels.rate)


def contacts_of(body: Motion | None) -> tuple[FootContacts, ...]:
    """When the feet of a body take stand, in its own frames; () without one, or without two legs."""
    return find_foot_contacts(body) if body is not None and has_feet(body.skeleton) else ()


def stands_in_take(
    channels: Channels, body: Motion, settings: JoinSettings, contacts: Sequence[FootContacts], floor: float = 0.0
) -> tuple[FootContacts, ...]:
    """Contacts of a body take, with those set by hand, in frames of the face take; floor: metres of the ground to stand on."""
    contacts = with_set(contacts, settings.contacts, float(body.rate), body.frames)
    offset = begins_in_body(channels, body, settings)
    return retimed(contacts, float(body.rate), offset, channels.frames, float(channels.rate), floor)
