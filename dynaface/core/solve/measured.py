"""What was measured of a stretch of footage: each frame's equations, before all frames are solved together in time."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Protocol

import numpy as np
from numpy.typing import NDArray

from dynaface.core.errors import InputError
from dynaface.core.track.camera import Pose
from dynaface.core.track.head import Array


@dataclass(frozen=True)
class Measured:
    """a: (frames, shapes, shapes) and b: (frames, shapes) of w'aw/2 - b'w; weights: (frames, shapes) of each frame by
    itself; poses: (frames, 7) turn and place of the head, NaN where no face was seen; sure: (frames, shapes)
    0..1 how far what each shape moves is seen.
    """

    a: NDArray[np.float32]
    b: Array
    weights: Array
    poses: Array
    sure: Array

    @property
    def frames(self) -> int:
        """Number of frames."""
        return len(self.b)

    @property
    def seen(self) -> NDArray[np.bool_]:
        """(frames,) True where a face was seen."""
        return np.isfinite(self.poses[:, 0])

    def pose(self, frame: int) -> Pose | None:
        """The head's pose in a frame, or None."""
        row = self.poses[frame]
        return Pose(row[:4], row[4:]) if np.isfinite(row[0]) else None

    def cut(self, first: int, last: int) -> "Measured":
        """Frames first to last of it, both included."""
        part = slice(first, last + 1)
        return Measured(self.a[part], self.b[part], self.weights[part], self.poses[part], self.sure[part])


class MeasuredFrames(Protocol):
    """Measured frames of a span, of which as many are in memory as are asked for; `Measured` is one."""

    @property
    def frames(self) -> int:
        """Number of frames."""

    def cut(self, first: int, last: int) -> Measured:
        """Frames first to last, both included."""


def row_of(pose: Pose | None) -> Array:
    """(7,) of a pose, NaN for none."""
    return np.full(7, np.nan) if pose is None else np.concatenate([pose.turn, pose.place])


def joined(parts: Sequence[Measured]) -> Measured:
    """Stretches one after the other; raises InputError for none at all."""
    if not parts:
        raise InputError("nothing was measured")
    return Measured(*(np.concatenate([getattr(p, name) for p in parts])
                      for name in ("a", "b", "weights", "poses", "sure")))  # fmt: skip
