"""A hand that closes about something: where that lies in it, and how its fingers bend."""

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np

from dynaface.core.body.rotations import Array, about_vector, inverse, multiply, rotate
from dynaface.core.body.skeleton import Skeleton
from dynaface.core.contact.hands import Hand
from dynaface.core.match.anatomy import anatomy_of

FIST = (70.0, 80.0, 50.0)  # degrees by which a finger bends from its rest, from the knuckle on
THUMB = (12.0, 30.0, 35.0)
TOWARD, OUT = (
    0.8,
    0.028,
)  # of the way from the wrist to the knuckles, and metres of an adult before the palm, where a thing lies


@dataclass(frozen=True)
class Grasp:
    """place: (3,) metres from the wrist, in its frame, of what a closed hand holds; fist: joint -> (4,) local rotation when it is closed."""

    place: Array
    fist: Mapping[int, Array]


def grasp_of(skeleton: Skeleton, hand: Hand) -> Grasp:
    """How a hand closes; one without knuckles holds things in its palm and stays as it is."""
    rotations, at = skeleton.global_rest()
    wrist = hand.bones.end
    anatomy = anatomy_of(skeleton)
    fingers = {digit: anatomy.chain(f"finger{digit}", hand.side[0]) for digit in range(1, 6)}
    knuckles = [at[chain[0]] for digit, chain in fingers.items() if chain and digit > 1]
    if len(knuckles) < 2:
        return Grasp(hand.places["palm"][1], {})
    along = np.mean(knuckles, axis=0) - at[wrist]
    across = knuckles[0] - knuckles[-1]
    inward = np.cross(along, across) * (1.0 if hand.side == "Left" else -1.0)
    inward /= max(float(np.linalg.norm(inward)), 1e-9)
    place = TOWARD * along + OUT * hand.size * inward
    fist = {}
    for digit, chain in fingers.items():
        bends = THUMB if digit == 1 else FIST
        for number, joint in enumerate(chain[: len(bends)]):
            axis = np.cross(_direction(at, chain, number), inward)
            axis *= np.radians(bends[number]) / max(float(np.linalg.norm(axis)), 1e-9)
            turn = about_vector(rotate(inverse(rotations[joint]), axis))
            fist[joint] = multiply(skeleton.rest[joint], turn)
    return Grasp(rotate(inverse(rotations[wrist]), place), fist)


def _direction(at: Array, chain: list[int], number: int) -> Array:
    """(3,) along the bone that a joint of a finger turns; the last one's goes on as the one before it."""
    first = min(number, len(chain) - 2) if len(chain) > 1 else 0
    return np.asarray(at[chain[first + 1]] - at[chain[first]] if len(chain) > 1 else np.zeros(3))
