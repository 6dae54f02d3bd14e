"""Joint drives: a channel turns or shifts a joint of the character."""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any, Literal

import numpy as np
from numpy.typing import NDArray

from dynaface.core import checks
from dynaface.core.body.rotations import multiply
from dynaface.core.errors import InputError
from dynaface.core.shapes.standard import CHANNELS, full_range

Array = NDArray[np.float64]


@dataclass(frozen=True)
class JointDrive:
    """joint; channel; moves: "turn" about, or "shift" along, `axis` (3,) of unit length in the joint's own frame, by
    `most` degrees or metres when the channel is whole (1, or 30 degrees); bend: response, a power of 2 ** -bend.
    """

    joint: str
    channel: str
    moves: Literal["turn", "shift"]
    axis: tuple[float, float, float]
    most: float
    bend: float = 0.0

    @property
    def key(self) -> str:
        """How a sheet names the drive."""
        return f"{self.joint}:{self.channel}"

    def describe(self) -> dict[str, Any]:
        """As plain data."""
        return {"moves": self.moves, "axis": [round(a, 4) for a in self.axis], "most": self.most, "bend": self.bend}

    def amount(self, values: NDArray[Any]) -> Array:
        """Degrees or metres for values of the channel (frames,); below 0 it goes the other way."""
        part = np.asarray(values, np.float64) / full_range(self.channel)
        return np.asarray(self.most * np.sign(part) * np.abs(part) ** 2.0**-self.bend)


def parse_drive(key: str, given: Any) -> JointDrive:
    """A drive from plain data under its key "joint:channel"; raises InputError."""
    joint, _, channel = key.rpartition(":")
    checks.one_of("channel of a joint", channel, CHANNELS)
    if not joint:
        raise InputError(f"the drive {key!r} must be named joint:channel")
    if not isinstance(given, Mapping) or not set(given) <= {"moves", "axis", "most", "bend"}:
        raise InputError(f"the drive {key!r} has moves, axis, most and bend")
    moves = checks.one_of(f"moves of {key!r}", given.get("moves", "turn"), ("turn", "shift"))
    axis = given.get("axis", [1, 0, 0])
    if not isinstance(axis, list | tuple) or len(axis) != 3:
        raise InputError(f"the axis of {key!r} must be three numbers")
    way = np.array([checks.within(f"axis of {key!r}", v, -1000, 1000) for v in axis])
    length = float(np.linalg.norm(way))
    if length < 1e-6:
        raise InputError(f"the axis of {key!r} has no length", hint="Give it a direction, such as 1, 0, 0")
    limit = 180.0 if moves == "turn" else 10.0
    most = checks.within(f"most of {key!r}", given.get("most", 20.0 if moves == "turn" else 0.01), -limit, limit)
    x, y, z = (float(v) for v in way / length)
    return JointDrive(
        joint, channel, moves, (x, y, z), most, checks.within(f"bend of {key!r}", given.get("bend", 0.0), -2, 2)
    )


def turns_and_shifts(drives: tuple[JointDrive, ...], values: Mapping[str, NDArray[Any]], frames: int
                     ) -> tuple[dict[str, Array], dict[str, Array]]:  # fmt: skip
    """What joints do against their rest, in their own frames: joint -> (frames, 4) turns and joint -> (frames, 3) shifts.

    values: channel -> (frames,). Several turns of one joint follow one another in the order of the drives.
    """
    turns: dict[str, Array] = {}
    shifts: dict[str, Array] = {}
    for drive in drives:
        amount = drive.amount(values[drive.channel]) if drive.channel in values else np.zeros(frames)
        if drive.moves == "shift":
            shifts[drive.joint] = shifts.get(drive.joint, np.zeros((frames, 3))) + amount[:, None] * drive.axis
            continue
        half = np.radians(amount) / 2
        turn = np.concatenate([np.sin(half)[:, None] * drive.axis, np.cos(half)[:, None]], axis=1)
        turns[drive.joint] = multiply(turns[drive.joint], turn) if drive.joint in turns else turn
    return turns, shifts
