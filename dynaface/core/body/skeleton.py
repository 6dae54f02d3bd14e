"""A skeleton and a motion of it."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from fractions import Fraction
from functools import cached_property

import numpy as np

from dynaface.core import checks
from dynaface.core.body.kernels import parents_of, posed
from dynaface.core.body.rotations import IDENTITY, Array, normalised, slerp
from dynaface.core.clock.timecode import Timecode
from dynaface.core.errors import InputError


@dataclass(frozen=True)
class Skeleton:
    """names: joints, parents before children; parents: index or -1; offsets: (joints, 3) metres from the parent at
    rest; rest: (joints, 4) local rotations at rest.
    """

    names: tuple[str, ...]
    parents: tuple[int, ...]
    offsets: Array
    rest: Array

    def __post_init__(self) -> None:
        checks.shaped("offsets", self.offsets, len(self.names), 3)
        checks.shaped("rest", self.rest, len(self.names), 4)
        if any(p >= i for i, p in enumerate(self.parents)):
            raise InputError("a joint of the skeleton stands before its parent")

    def index(self, name: str) -> int:
        """Raises InputError for a joint that is not there."""
        if name not in self.names:
            raise InputError(f"the skeleton has no joint {name!r}")
        return self.names.index(name)

    def global_rest(self) -> tuple[Array, Array]:
        """(joints, 4) rotations and (joints, 3) positions at rest."""
        return self._global_rest

    @cached_property
    def _global_rest(self) -> tuple[Array, Array]:
        rotations, positions = self.pose(self.rest[None], np.zeros((1, 3)))
        return rotations[0], positions[0]

    def pose(self, local: Array, root: Array) -> tuple[Array, Array]:
        """Global rotations (frames, joints, 4) and positions (frames, joints, 3).

        local: (frames, joints, 4); root: (frames, 3) moves the joints that have no parent, on top of their offset.
        """
        local, root = (np.ascontiguousarray(a, np.float64) for a in (local, root))
        rotations, positions = np.empty_like(local), np.empty((*local.shape[:2], 3))
        posed(
            parents_of(self.parents), np.ascontiguousarray(self.offsets, np.float64), local, root, rotations, positions
        )
        return rotations, positions

    def carrier(self, joint: int, turns: Array) -> Array:
        """(frames, 4) of turns (frames, joints, 4): that of the joint above one, no turn where there is none."""
        above = self.parents[joint]
        return turns[:, above] if above >= 0 else np.broadcast_to(IDENTITY, turns[:, 0].shape)

    def chained(self, joints: Sequence[int]) -> bool:
        """Whether each of some joints hangs on the one before."""
        return all(self.parents[below] == above for above, below in zip(joints, joints[1:], strict=False))

    def carries(self, above: int, joint: int) -> bool:
        """Whether a joint is another one or hangs below it."""
        while joint > above:
            joint = self.parents[joint]
        return joint == above

    def top(self, name: str) -> str:
        """The joint without a parent that carries one."""
        joint = self.index(name)
        while self.parents[joint] >= 0:
            joint = self.parents[joint]
        return self.names[joint]

    def chain(self, top: str, bottom: str) -> list[int]:
        """Joints from `top` down to `bottom`, both included; [] when bottom is not below top."""
        found = [self.index(bottom)]
        while found[-1] >= 0 and self.names[found[-1]] != top:
            found.append(self.parents[found[-1]])
        return found[::-1] if found[-1] >= 0 else []


@dataclass(frozen=True)
class Motion:
    """A skeleton in motion: local (frames, joints, 4), root (frames, 3) metres, rate; timecode of frame 0."""

    skeleton: Skeleton
    local: Array
    root: Array
    rate: Fraction
    timecode: Timecode | None = None

    @property
    def frames(self) -> int:
        """Number of frames."""
        return len(self.local)

    @property
    def seconds(self) -> float:
        """Length in seconds."""
        return self.frames / float(self.rate)

    def renamed(self, names: tuple[str, ...]) -> "Motion":
        """The same with other names of its joints."""
        return replace(self, skeleton=replace(self.skeleton, names=names))

    def at(self, seconds: Array) -> tuple[Array, Array]:
        """Local rotations and root at times (frames,) from frame 0; held beyond either end."""
        exact = np.clip(seconds * float(self.rate), 0, self.frames - 1)
        low = np.floor(exact).astype(int)
        high = np.minimum(low + 1, self.frames - 1)
        part = exact - low
        local = slerp(self.local[low], self.local[high], part[:, None])
        return local, self.root[low] * (1 - part[:, None]) + self.root[high] * part[:, None]


def at_rest(skeleton: Skeleton, frames: int) -> tuple[Array, Array]:
    """Local rotations (frames, joints, 4) and root (frames, 3), in metres, of a skeleton that stands still."""
    local = np.broadcast_to(skeleton.rest, (frames, *skeleton.rest.shape)).copy()
    return normalised(local), np.zeros((frames, 3))
