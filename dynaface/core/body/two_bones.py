"""Two bones bent so that their end arrives somewhere; the middle joint goes on pointing where it did."""

from typing import NamedTuple

import numpy as np

from dynaface.core.body.rotations import Array, about_vector, between, inverse, multiply, rotate
from dynaface.core.body.skeleton import Skeleton

SIDEWAYS = 0.1  # how much of the middle joint's axis the upper bone says where both are nearly in line
PASSES = 2


class Bones(NamedTuple):
    """Indices of three joints, each on the one before: hip, knee, ankle or shoulder, elbow, wrist."""

    top: int
    middle: int
    end: int


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
