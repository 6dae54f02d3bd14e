"""Where the eyes of a head are, and about which place it turns."""

from dataclasses import dataclass

import numpy as np

from dynaface.core.body.rotations import Array
from dynaface.core.body.skeleton import Skeleton
from dynaface.core.head.neck import head_chain

Place = tuple[float, float, float]
# Metres of a person's eyes against the joint of the head, where no joint says where they are.
FORWARD, APART, UP = 0.09, 0.062, 0.1


@dataclass(frozen=True)
class Eyes:
    """Metres in a character's own space, in which it looks along +z with +y up: left, right: the middles of its eyes; pivot: about
    which its head turns.
    """

    left: Place
    right: Place
    pivot: Place

    @property
    def middle(self) -> Array:
        """(3,) between the eyes."""
        return (np.asarray(self.left) + np.asarray(self.right)) / 2


PERSON = Eyes((0.031, 1.6, 0.09), (-0.031, 1.6, 0.09), (0.0, 1.5, 0.0))
"""Where nothing is known of a character."""


def eyes_at_rest(skeleton: Skeleton | None, left: str | None, right: str | None) -> Eyes:
    """The eyes of a skeleton at rest; left, right: their joints, where there are any. A person's where the skeleton has no head."""
    chain = head_chain(skeleton) if skeleton else []
    if skeleton is None or not (chain or (left and right)):
        return PERSON
    places = skeleton.global_rest()[1]
    if left and right:
        one, other = places[skeleton.index(left)], places[skeleton.index(right)]
    else:
        middle = places[chain[-1]] + [0.0, UP, FORWARD]
        one, other = (middle + [side * APART / 2, 0.0, 0.0] for side in (1, -1))
    pivot = places[chain].mean(axis=0) if chain else (one + other) / 2
    return Eyes(_place(one), _place(other), _place(pivot))


def _place(at: Array) -> Place:
    x, y, z = (float(v) for v in at)
    return x, y, z
