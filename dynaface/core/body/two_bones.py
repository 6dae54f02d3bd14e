"""Two bones bent so that their end arrives somewhere; the middle joint goes on pointing where it did."""

from typing import NamedTuple

import numpy as np

from dynaface.core.body.rotations import Array, about_vector, between, inverse, multiply, rotate
from dynaface.core.body.skeleton import Skeleton

SIDEWAYS = 0.1  # how much of the middle joint's axis the upper bone says where both are nearly in line
PASSES = 2
KNEE_AXIS = np.array([1.0, 0.0, 0.0])
"""World axis about which a knee bends at rest."""


class Bones(NamedTuple):
    """Indices of three joints, each on the one before: hip, knee, ankle or shoulder, elbow, wrist."""

    top: int
    middle: int
    end: int


def elbow_axis(skeleton: Skeleton, bones: Bones) -> Array:
    """(3,) world axis about which an elbow bends at rest, where both bones of the arm are in line."""
    at = skeleton.global_rest()[1]
    across = np.cross(at[bones.middle] - at[bones.top], [0.0, 0.0, 1.0])
    return np.asarray(across / max(float(np.linalg.norm(across)), 1e-9))


def lay(
    skeleton: Skeleton, bones: Bones, rotations: Array, positions: Array, wish: Array, turn: Array, hinge: Array
) -> dict[int, Array]:
    """Joint -> local rotations (frames, 4) of a limb whose end comes to `wish` (frames, 3) as far as it reaches and is turned in the world
    as `turn` (frames, 4) says; others as in `bent`.
    """
    top, below = bent(skeleton, bones, rotations, positions, wish, hinge)
    return {
        bones.top: multiply(inverse(skeleton.carrier(bones.top, rotations)), top),
        bones.middle: multiply(inverse(top), below),
        bones.end: multiply(inverse(below), turn),
    }


def bent(
    skeleton: Skeleton, bones: Bones, rotations: Array, positions: Array, wish: Array, hinge: Array
) -> tuple[Array, Array]:
    """Global rotations of top and middle joint, each (frames, 4), with which the end comes to `wish` (frames, 3), as far as it reaches.

    rotations (frames, joints, 4) and positions (frames, joints, 3) are global; hinge: (3,) world axis about which the middle joint bends at
    rest, for frames in which it is straight.
    """
    top, middle = rotations[:, bones.top].copy(), rotations[:, bones.middle].copy()
    start = positions[:, bones.top]
    upper = rotate(inverse(top), positions[:, bones.middle] - start)
    lower = rotate(inverse(middle), positions[:, bones.end] - positions[:, bones.middle])
    long, short = np.linalg.norm(upper, axis=1), np.linalg.norm(lower, axis=1)
    way = wish - start
    far = np.clip(np.linalg.norm(way, axis=1), np.abs(long - short) + 1e-6, (long + short) * 0.99999)
    rest = skeleton.global_rest()[0][bones.top]
    across = rotate(top, np.broadcast_to(rotate(inverse(rest), hinge), way.shape))
    for _ in range(PASSES):
        one, two = rotate(top, upper), rotate(middle, lower)
        normal = np.cross(one, two) / (long * short)[:, None]
        sense = np.sign((normal * across).sum()) or 1.0
        axis = normal + sense * SIDEWAYS * across
        axis -= (axis * one).sum(axis=1, keepdims=True) * one / (long**2)[:, None]
        axis /= np.maximum(np.linalg.norm(axis, axis=1, keepdims=True), 1e-9)
        now = np.arccos(np.clip((one * two).sum(axis=1) / (long * short), -1, 1))
        then = np.arccos(np.clip((far**2 - long**2 - short**2) / (2 * long * short), -1, 1))
        middle = multiply(about_vector(axis * (then - now)[:, None]), middle)
        aim = between(one + rotate(middle, lower), way)
        top, middle = multiply(aim, top), multiply(aim, middle)
        across = rotate(aim, across)
    return top, middle
