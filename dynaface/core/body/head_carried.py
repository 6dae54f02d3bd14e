"""Where a body carries a head: for looks that are to meet something while the body goes and turns."""

from dataclasses import dataclass

import numpy as np

from dynaface.core.body.eyes import Eyes
from dynaface.core.body.neck import head_chain
from dynaface.core.body.rotations import Array, inverse, multiply, rotate
from dynaface.core.body.skeleton import Skeleton


@dataclass(frozen=True)
class HeadCarried:
    """Of a character in its own space. turn: (frames, 4) of what carries the neck; pivot: (frames, 3) metres, about which the head turns on
    it; eyes: at rest.
    """

    turn: Array
    pivot: Array
    eyes: Eyes

    def seen_at_rest(self, place: Array) -> Array:
        """(frames, 3) where a place (3,) or (frames, 3) lies for a head that is carried as at rest."""
        return np.asarray(self.eyes.pivot) + rotate(inverse(self.turn), place - self.pivot)

    def eyes_turned(self, head: Array) -> Array:
        """(frames, 3) the middle between the eyes of a head that is turned (frames, 4) against the chest."""
        way = self.eyes.middle - np.asarray(self.eyes.pivot)
        return self.pivot + rotate(multiply(self.turn, head), np.broadcast_to(way, self.pivot.shape))


def carried_head(skeleton: Skeleton, local: Array, root: Array, eyes: Eyes) -> HeadCarried:
    """Where local rotations (frames, joints, 4) and root (frames, 3) carry the head; as at rest without one."""
    chain = head_chain(skeleton)
    if not chain:
        still = np.broadcast_to([0.0, 0.0, 0.0, 1.0], (len(local), 4))
        return HeadCarried(still, np.broadcast_to(eyes.pivot, (len(local), 3)), eyes)
    rest, at = skeleton.global_rest()
    turns, places = skeleton.pose(local, root)
    joint, above = chain[0], skeleton.parents[chain[0]]
    turn = multiply(turns[:, above], inverse(rest[above])) if above >= 0 else np.broadcast_to([0.0, 0.0, 0.0, 1.0], (len(local), 4))  # fmt: skip
    way = np.asarray(eyes.pivot) - at[joint]
    return HeadCarried(turn, places[:, joint] + rotate(turn, np.broadcast_to(way, root.shape)), eyes)
