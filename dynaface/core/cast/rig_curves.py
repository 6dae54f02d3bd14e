"""A character's motion as channels of its rig, for layers that touch it up, and back."""

from collections.abc import Mapping, Sequence
from dataclasses import replace
from fractions import Fraction

import numpy as np

from dynaface.core.body.rotations import Array, head_angles, head_rotation
from dynaface.core.cast.apply import CastMotion
from dynaface.core.cast.character import Character
from dynaface.core.curves.channels import Channels, Floats
from dynaface.core.match.limb_bones import limbs_of
from dynaface.core.shapes.rig import (
    SLIDE_AXES,
    RigChannel,
    reach_channels,
    rig_channel,
    slide_channels,
    target_channel,
    turn_channels,
)

MILLIMETRES = 1000.0
# head_rotation turns about x and z the other way: seen from behind, half a turn about y, all three are right-handed.
HALF_TURN = np.array([-1.0, 1.0, -1.0, 1.0])


def channels_of(character: Character) -> tuple[str, ...]:
    """All channels of a character's rig: its targets, then angles and slides of its joints, and how far its limbs reach."""
    joints = character.skeleton.names if character.skeleton else ()
    moved = [n for joint in joints for n in (*turn_channels(joint), *slide_channels(joint))]
    reached = [n for limb in limbs_of(character.skeleton) for n in reach_channels(limb)] if character.skeleton else []
    return (*(target_channel(t) for t in character.targets), *moved, *reached)


def rig_curves(made: CastMotion, names: Sequence[str], rate: Fraction) -> Channels:
    """(frames, names) of a motion, angles of each joint as the cast sheet turns it; what it does not move rests."""
    frames = len(made.weights)
    column = {t: n for n, t in enumerate(made.targets)}
    angles: dict[str, Mapping[str, Floats]] = {}
    values = np.zeros((frames, len(names)), np.float32)
    for n, name in enumerate(names):
        channel = rig_channel(name)
        assert channel is not None
        if channel.part == "target" and channel.of in column:
            values[:, n] = made.weights[:, column[channel.of]]
        elif channel.part == "turn" and channel.of in made.turns:
            if channel.of not in angles:
                angles[channel.of] = joint_angles(made.turns[channel.of])
            values[:, n] = angles[channel.of][channel.axis]
        elif channel.part == "slide" and channel.of in made.shifts:
            values[:, n] = made.shifts[channel.of][:, SLIDE_AXES.index(channel.axis)] * MILLIMETRES
        elif channel.part == "reach" and channel.of in made.reaches:
            values[:, n] = made.reaches[channel.of][:, SLIDE_AXES.index(channel.axis)] * MILLIMETRES
    return Channels(tuple(names), values, rate)


def joint_turn(y: Array, x: Array, z: Array) -> Array:
    """(frames, 4) of a joint from its angles, each (frames,) degrees."""
    return np.asarray(head_rotation(y, x, z) * HALF_TURN)


def joint_angles(turn: Array) -> dict[str, Floats]:
    """Axis -> (frames,) degrees of a joint that is turned by (frames, 4) against its rest."""
    y, x, z = head_angles(turn * HALF_TURN)
    return {"y": y.astype(np.float32), "x": x.astype(np.float32), "z": z.astype(np.float32)}


def with_rig_curves(made: CastMotion, curves: Channels, character: Character) -> CastMotion:
    """The motion with channels of the rig as the curves have them; what this rig does not have is left out, and what they do not name stays
    as it is, bit for bit.
    """
    known = [(name, c) for name in curves.names if (c := rig_channel(name)) and _is_there(c, character)]
    targets = made.targets + tuple(c.of for _, c in known if c.part == "target" and c.of not in made.targets)
    more = np.zeros((len(made.weights), len(targets) - len(made.targets)), np.float32)
    weights = np.concatenate([made.weights, more], axis=1)
    for name, channel in known:
        if channel.part == "target":
            weights[:, targets.index(channel.of)] = curves.column(name)
    turns, shifts, reaches = dict(made.turns), dict(made.shifts), dict(made.reaches)
    for joint in {c.of: None for _, c in known if c.part == "turn"}:
        y, x, z = (curves.column(n).astype(np.float64) for n in turn_channels(joint))
        turns[joint] = joint_turn(y, x, z)
    for part, names, held in (("slide", slide_channels, shifts), ("reach", reach_channels, reaches)):
        for of in {c.of: None for _, c in known if c.part == part}:
            was = held.get(of)
            own = np.zeros((len(weights), 3)) if was is None else np.array(was, np.float64)
            for axis, name in enumerate(names(of)):
                if name in curves.names:
                    own[:, axis] = curves.column(name) / MILLIMETRES
            held[of] = own
    return replace(made, targets=targets, weights=weights, turns=turns, shifts=shifts, reaches=reaches)


def _is_there(channel: RigChannel, character: Character) -> bool:
    if channel.part == "target":
        return channel.of in character.targets
    if character.skeleton is None:
        return False
    if channel.part == "reach":
        return channel.of in limbs_of(character.skeleton)
    return channel.of in character.skeleton.names
