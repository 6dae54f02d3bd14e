"""Channels of a character's own rig: its targets, what its joints turn and slide, and how far its hands and feet reach.

They are named "target NAME", "joint NAME turn x", "joint NAME slide x" and "limb LIMB x", so that none is ever taken for a standard
channel. A target is a weight; a joint's angles are degrees against what its rest is, in its own frame and right-handed, applied as y,
then x, then z; slides are millimetres along its own axes; a limb goes by millimetres to the left, up and ahead as its hips face.
"""

from collections.abc import Collection, Iterable
from dataclasses import dataclass
from typing import Literal

from dynaface.core.shapes.standard import HEAD_ANGLES, PLACE_OF, full_range

Part = Literal["target", "turn", "slide", "reach"]
LIMBS = {"handLeft": "left hand", "handRight": "right hand", "footLeft": "left foot", "footRight": "right foot"}
TURN_AXES, SLIDE_AXES = "yxz", "xyz"
TURN_RANGE, SLIDE_RANGE, REACH_RANGE = 30.0, 10.0, 100.0  # degrees and millimetres at full activity


@dataclass(frozen=True)
class RigChannel:
    """of: the target, the joint, or the limb of `LIMBS`; axis: "x", "y" or "z" of a joint's own frame or of the way a limb goes, "" for a
    target.
    """

    part: Part
    of: str
    axis: str = ""


def target_channel(target: str) -> str:
    """The channel of a target."""
    return f"target {target}"


def turn_channels(joint: str) -> tuple[str, str, str]:
    """The channels of a joint's angles, in the order in which they are applied."""
    y, x, z = (f"joint {joint} turn {axis}" for axis in TURN_AXES)
    return y, x, z


def slide_channels(joint: str) -> tuple[str, str, str]:
    """The channels of a joint's slides."""
    x, y, z = (f"joint {joint} slide {axis}" for axis in SLIDE_AXES)
    return x, y, z


def reach_channels(limb: str) -> tuple[str, str, str]:
    """The channels of a limb of `LIMBS`: to the left, up, ahead."""
    x, y, z = (f"limb {limb} {axis}" for axis in SLIDE_AXES)
    return x, y, z


def rig_channel(name: str) -> RigChannel | None:
    """What a channel of a rig is of; None for any other name."""
    kind, _, rest = name.partition(" ")
    if kind == "target" and rest:
        return RigChannel("target", rest)
    limb, _, axis = rest.partition(" ")
    if kind == "limb" and limb in LIMBS and axis in ("x", "y", "z"):
        return RigChannel("reach", limb, axis)
    words = rest.rsplit(" ", 2)
    if kind == "joint" and len(words) == 3 and words[0] and words[2] in ("x", "y", "z"):
        if words[1] == "turn":
            return RigChannel("turn", words[0], words[2])
        if words[1] == "slide":
            return RigChannel("slide", words[0], words[2])
    return None


def range_of(channel: str) -> float:
    """How far a channel, standard or of a rig, goes at full activity."""
    own = rig_channel(channel)
    if own is None:
        return full_range(channel)
    return {"target": 1.0, "turn": TURN_RANGE, "slide": SLIDE_RANGE, "reach": REACH_RANGE}[own.part]


def in_order(named: Iterable[str]) -> tuple[str, ...]:
    """Channels in the standard order, those of a rig by name behind them."""
    return tuple(sorted(named, key=lambda name: (PLACE_OF.get(name, len(PLACE_OF)), name)))


def rotations(named: Collection[str]) -> tuple[tuple[str, str, str], ...]:
    """Threes of angles that are one rotation together, of which any is named: those of the head, and of each joint of a rig."""
    turn, nod, tilt = HEAD_ANGLES
    out = [(turn, nod, tilt)] if any(n in named for n in HEAD_ANGLES) else []
    joints = (rig_channel(n) for n in named if n.startswith("joint "))
    return tuple(out + [turn_channels(j) for j in sorted({c.of for c in joints if c and c.part == "turn"})])
