"""The join: face, head and body on one skeleton, at the take's frames."""

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Any

import numpy as np

from dynaface.core import checks
from dynaface.core.body.match import match_joints
from dynaface.core.body.neck import chain_turns, head_chain, local_of_chain
from dynaface.core.body.retarget import retarget, to_local
from dynaface.core.body.rotations import Array, continuous, head_rotation, inverse, multiply, rotate
from dynaface.core.body.skeleton import Motion, Skeleton, at_rest
from dynaface.core.cast.apply import CastMotion, apply_sheet
from dynaface.core.cast.character import Character
from dynaface.core.cast.sheet import CastSheet
from dynaface.core.curves.channels import Channels, Floats
from dynaface.core.curves.gaps import bridged
from dynaface.core.errors import InputError
from dynaface.core.shapes.standard import HEAD_ANGLES


@dataclass(frozen=True)
class JoinSettings:
    """matches: target joint -> source joint by hand ("" leaves the joint alone); nudge: frames of the take by which
    the body is moved later; head_weight: 0 the body's own head .. 1 the face take's; travel: whether the root moves.
    """

    matches: Mapping[str, str] = field(default_factory=dict)
    nudge: float = 0.0
    head_weight: float = 1.0
    travel: bool = True


def parse_join(data: Mapping[str, Any]) -> JoinSettings:
    """Settings from plain data; raises InputError."""
    for key in data:
        checks.one_of("join field", key, ("matches", "nudge", "headWeight", "travel"))
    matches = data.get("matches", {})
    if not isinstance(matches, Mapping) or not all(isinstance(v, str) for v in matches.values()):
        raise InputError("matches must be a table of joint names by joint name")
    travel = data.get("travel", True)
    if not isinstance(travel, bool):
        raise InputError(f"travel is {travel!r}; it must be true or false")
    return JoinSettings(
        dict(matches),
        checks.within("nudge", data.get("nudge", 0.0), -100_000, 100_000),
        checks.within("headWeight", data.get("headWeight", 1.0), 0, 1),
        travel,
    )


@dataclass(frozen=True)
class Stance:
    """The body alone, at the take's frames: world turns and local rotations (frames, joints, 4) of the character's
    skeleton, root travel (frames, 3), joints that move, and the joint that travels ("" for none).
    """

    turns: Array
    local: Array
    root: Array
    moving: frozenset[str]
    root_joint: str


@dataclass(frozen=True)
class Performance:
    """Everything that moves a character, at the take's frames and rate.

    cast: weights of targets; joints: names of the joints that move; local: (frames, joints, 4) float32 local
    rotations; root: (frames, 3) float32 metres by which `root_joint` moves from its rest ("" where it stays);
    head_joints: those of neck, head, eyes and face; shifts: joint -> (frames, 3) float32 metres from its rest, in the frame
    of the joint above it.
    """

    channels: Channels
    cast: CastMotion
    joints: tuple[str, ...]
    local: Floats
    root: Floats
    root_joint: str
    head_joints: tuple[str, ...]
    shifts: Mapping[str, Floats] = field(default_factory=dict)


def joint_matches(body: Skeleton, target: Skeleton, settings: JoinSettings) -> dict[str, str]:
    """Target joint -> source joint: by names, then by hand."""
    matches = match_joints(body.names, target.names)
    for ours, theirs in settings.matches.items():
        target.index(ours)
        if theirs:
            body.index(theirs)
            matches[ours] = theirs
        else:
            matches.pop(ours, None)
    return matches


def body_offset(channels: Channels, body: Motion) -> float | None:
    """Seconds into the body take at which the face take begins, by timecode; None where one has none."""
    if channels.timecode is None or body.timecode is None:
        return None
    offset = channels.timecode.seconds - body.timecode.seconds
    if offset < -43200:
        offset += 86400  # the body's count began before midnight
    return offset


def head_of(channels: Channels, strength: Floats) -> tuple[Array, Array]:
    """The face take's head rotation (frames, 4), gaps bridged, and whether it has any (frames,) as 0 or 1."""
    angles = bridged(np.stack([channels.column(n) for n in HEAD_ANGLES], axis=1)) * strength
    known = float(any(n in channels.names for n in HEAD_ANGLES))
    return head_rotation(*angles.T.astype(np.float64)), np.full(channels.frames, known)


def stand(channels: Channels, target: Skeleton, body: Motion | None, settings: JoinSettings) -> Stance:
    """The body take on the character's skeleton at the frames of the channels; without one the character stands."""
    frames = channels.frames
    if body is None:
        turns = np.broadcast_to([0.0, 0.0, 0.0, 1.0], (frames, len(target.names), 4))
        local, root = at_rest(target, frames)
        return Stance(turns, local, root, frozenset(), "")
    matches = joint_matches(body.skeleton, target, settings)
    offset = body_offset(channels, body) or 0.0
    times = np.arange(frames) / float(channels.rate) + offset - settings.nudge / float(channels.rate)
    turns, root = retarget(body.skeleton, *body.at(times), target, matches)
    if not settings.travel:
        root = root * np.array([0.0, 1.0, 0.0])
    roots = (t for t, s in matches.items() if body.skeleton.parents[body.skeleton.names.index(s)] < 0)
    return Stance(turns, continuous(to_local(target, turns)), root, frozenset(matches), next(roots, ""))


def perform(
    channels: Channels,
    character: Character,
    sheet: CastSheet,
    stance: Stance | None = None,
    head_weight: float | None = None,
) -> Performance:
    """The take on the character; head_weight as in JoinSettings, None where there is no body: then the neck is the
    face take's alone.
    """
    cast = apply_sheet(channels, character, sheet)
    target = character.skeleton
    frames = channels.frames
    if target is None or frames == 0:
        none = np.zeros((frames, 0, 4), np.float32)
        return Performance(channels, cast, (), none, np.zeros((frames, 3), np.float32), "", ())
    stance = stance or stand(channels, target, None, JoinSettings())
    local = stance.local.astype(np.float32)
    moving = set(stance.moving)
    chain = head_chain(target)
    if chain:
        strength = np.full(3, sheet.region_strength.get("head", 1.0), np.float32)
        head, known = head_of(channels, strength)
        above = target.parents[chain[0]]
        base = stance.turns[:, above] if above >= 0 else np.broadcast_to([0.0, 0.0, 0.0, 1.0], (frames, 4))
        weight = known * (1.0 if head_weight is None else head_weight)
        turns = chain_turns(stance.turns, base, chain, head, weight)
        local[:, chain] = continuous(local_of_chain(target, base, chain, turns))
    upper = {target.names[j] for j in chain} | set(cast.eyes) | set(cast.turns)
    moving |= upper
    for joint, turn in cast.eyes.items():
        index = target.index(joint)
        local[:, index] = continuous(_in_joint_frame(target, index, turn, stance.local[:, index]))
    for joint, turn in cast.turns.items():
        index = target.index(joint)
        local[:, index] = continuous(multiply(local[:, index].astype(np.float64), turn))
    shifts = {
        joint: rotate(target.rest[target.index(joint)], shift).astype(np.float32)
        for joint, shift in cast.shifts.items()
    }
    order = [i for i, n in enumerate(target.names) if n in moving]
    return Performance(
        channels,
        cast,
        tuple(target.names[i] for i in order),
        local[:, order],
        stance.root.astype(np.float32),
        stance.root_joint,
        tuple(n for n in target.names if n in upper),
        shifts,
    )


def _in_joint_frame(skeleton: Skeleton, joint: int, turn: Array, local: Array) -> Array:
    """An eye turns in the head's frame, so its turn is carried into the joint's own."""
    rest, _ = skeleton.global_rest()
    return multiply(local, multiply(multiply(inverse(rest[joint]), turn), rest[joint]))
