"""Where a body carries a head: for looks that are to meet something while the body goes and turns."""

from dataclasses import dataclass

import numpy as np

from dynaface.core.body.rotations import IDENTITY, Array, inverse, multiply, rotate
from dynaface.core.body.skeleton import Skeleton
from dynaface.core.head.eyes import Eyes
from dynaface.core.head.neck import head_chain


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


def carried_head(skeleton: Skeleton, turns: Array, local: Array, root: Array, eyes: Eyes) -> HeadCarried:
    """Where a body carries the head; as at rest without one. turns: (frames, joints, 4) world turns from rest, of local (frames, joints, 4);
    root: (frames, 3).
    """
    chain = head_chain(skeleton)
    if not chain:
        still = np.broadcast_to(IDENTITY, (len(local), 4))
        return HeadCarried(still, np.broadcast_to(eyes.pivot, (len(local), 3)), eyes)
    joint = chain[0]
    turn = skeleton.carrier(joint, turns)
    way = np.asarray(eyes.pivot) - skeleton.global_rest()[1][joint]
    return HeadCarried(
        turn, skeleton.pose(local, root)[1][:, joint] + rotate(turn, np.broadcast_to(way, root.shape)), eyes
    )
