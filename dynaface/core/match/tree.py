"""A skeleton at rest as a tree of bones: children, reach and length of what hangs on a joint."""

from dataclasses import dataclass
from functools import cached_property

import numpy as np

from dynaface.core.body.rotations import Array
from dynaface.core.body.skeleton import Skeleton


@dataclass(frozen=True)
class Tree:
    """parents: index or -1, before their children; at: (joints, 3) places at rest, in any unit."""

    parents: tuple[int, ...]
    at: Array

    @classmethod
    def of(cls, skeleton: Skeleton) -> "Tree":
        """The tree of a skeleton at rest."""
        return cls(skeleton.parents, skeleton.global_rest()[1])

    @cached_property
    def children(self) -> tuple[tuple[int, ...], ...]:
        """Indices of the joints on each joint."""
        out: list[list[int]] = [[] for _ in self.parents]
        for joint, parent in enumerate(self.parents):
            if parent >= 0:
                out[parent].append(joint)
        return tuple(tuple(c) for c in out)

    @cached_property
    def bones(self) -> Array:
        """(joints,) length of the bone from the parent; 0 for a root."""
        above = np.array(self.parents)
        return np.where(above >= 0, np.linalg.norm(self.at - self.at[above], axis=1), 0.0)

    @cached_property
    def total(self) -> Array:
        """(joints,) length of all bones of what hangs on a joint, with the bone to it."""
        out = self.bones.copy()
        for joint in range(len(out) - 1, -1, -1):
            if self.parents[joint] >= 0:
                out[self.parents[joint]] += out[joint]
        return out

    @cached_property
    def reach(self) -> Array:
        """(joints,) length of the longest chain below a joint."""
        out = np.zeros(len(self.parents))
        for joint in range(len(out) - 1, -1, -1):
            parent = self.parents[joint]
            if parent >= 0:
                out[parent] = max(out[parent], out[joint] + self.bones[joint])
        return out

    @cached_property
    def count(self) -> list[int]:
        """Joints of the longest chain below each joint, by number."""
        out = [0] * len(self.parents)
        for joint in range(len(out) - 1, -1, -1):
            if self.parents[joint] >= 0:
                out[self.parents[joint]] = max(out[self.parents[joint]], out[joint] + 1)
        return out

    def below(self, joint: int) -> list[int]:
        """A joint and all that hangs on it, parents first."""
        out = [joint]
        for found in out:
            out.extend(self.children[found])
        return out

    def middle(self, joint: int) -> Array:
        """(3,) mean place of a joint and all that hangs on it."""
        return np.asarray(self.at[self.below(joint)].mean(axis=0))

    def above(self, joint: int) -> list[int]:
        """A joint and those above it, up to the root."""
        out = [joint]
        while self.parents[out[-1]] >= 0:
            out.append(self.parents[out[-1]])
        return out

    def way(self, top: int, bottom: int) -> list[int]:
        """Joints from below `top` down to `bottom`; [] where bottom is not below top."""
        chain = self.above(bottom)
        return chain[: chain.index(top)][::-1] if top in chain else []

    def longest(self, joint: int) -> list[int]:
        """The longest chain from a joint to its end, itself first."""
        out = [joint]
        while self.children[out[-1]]:
            out.append(max(self.children[out[-1]], key=lambda c: self.reach[c] + self.bones[c]))
        return out

    def apart(self, one: int, other: int) -> float:
        """Distance of two joints."""
        return float(np.linalg.norm(self.at[one] - self.at[other]))
