"""The head's travel before a fixed camera as a lean of the trunk: the spine bends so that the neck goes where the head went.

The head can not leave its neck, for only joints turn; how it looks stays as it is, for the neck gives back what the spine took.
"""

import numpy as np

from dynaface.core.body.rotations import IDENTITY, Array, about_vector, continuous, inverse, multiply, rotate, slerp
from dynaface.core.body.skeleton import Skeleton
from dynaface.core.head.neck import head_chain

ADULT = 0.5  # metres from the lowest joint of the spine to the neck of those whose travel is seen; other bodies lean by the same angle
LIMIT = 30.0  # degrees that a trunk leans
KNEE = 0.8  # of the limit, from which on it is approached softly
ROUNDS = 5
UPRIGHT = 0.2  # of a trunk's length that it must rise above the hips for its lean to be worked out


def trunk(skeleton: Skeleton) -> list[int]:
    """Joints of the spine, from the lowest to the one that carries the neck; [] where there are none. What carries legs as well, or has
    nothing beneath it, stands and does not bend.
    """
    chain = head_chain(skeleton)
    found: list[int] = []
    joint = skeleton.parents[chain[0]] if chain else -1
    while joint >= 0 and skeleton.parents[joint] >= 0:
        found.append(joint)
        joint = skeleton.parents[joint]
    legs = [i for i, j in enumerate(found) if _carries_legs(skeleton, j)]
    return found[: legs[0]][::-1] if legs else found[::-1]


def _carries_legs(skeleton: Skeleton, joint: int) -> bool:
    words = ("leg", "thigh", "hip", "femur")
    return any(
        p == joint and any(w in n.lower() for w in words) for n, p in zip(skeleton.names, skeleton.parents, strict=True)
    )


def lean(skeleton: Skeleton, turns: Array, local: Array, travel: Array) -> tuple[Array, Array]:
    """(turns, local) with the trunk leaning after travel.

    turns: (frames, joints, 4) world turns from rest, local: (frames, joints, 4); travel: (frames, 3) millimetres to the character's left,
    up and forward as it stands, of which only what is level makes it lean. Without a trunk nothing changes.
    """
    spine = trunk(skeleton)
    if not spine or not len(turns):
        return turns, local
    rest, at = skeleton.global_rest()
    top = head_chain(skeleton)[0]
    ends = [*spine[1:], top]
    stands = skeleton.carrier(spine[0], turns)
    upright = inverse(stands)
    bones = [rotate(multiply(upright, turns[:, j]), at[end] - at[j]) for j, end in zip(spine, ends, strict=True)]
    size = float(np.linalg.norm(at[top] - at[spine[0]])) / ADULT
    bend = multiply(stands, multiply(bend_for(travel / 1000 * size, np.stack(bones)), upright))
    out, moved = turns.copy(), local.copy()
    shares = {joint: slerp(IDENTITY, bend, number / len(spine)) for number, joint in enumerate(spine, 1)}
    # What hangs on the spine goes along, but for the neck and what it carries.
    for joint, parent in enumerate(skeleton.parents):
        if joint not in shares and parent in shares and joint != top:
            shares[joint] = shares[parent]
    for joint, share in shares.items():
        out[:, joint] = multiply(share, turns[:, joint])
    for joint in spine:
        parent = skeleton.parents[joint]
        above = multiply(out[:, parent], rest[parent])
        moved[:, joint] = continuous(multiply(inverse(above), multiply(out[:, joint], rest[joint])))
    return out, moved


def bend_for(travel: Array, bones: Array) -> Array:
    """(frames, 4) by how much the top of a chain turns so that it goes by travel (frames, 3) metres on the level, as far as the limit
    lets it; every bone of the chain (bones, frames, 3), y up, takes its even share, the lowest the least.
    """
    count = len(bones)
    lever = sum(bone * ((number + 1) / count) for number, bone in enumerate(bones))
    rise = np.maximum(np.maximum(lever[:, 1], UPRIGHT * np.linalg.norm(lever, axis=1)), 1e-9)
    wish = np.zeros_like(travel)
    for _ in range(ROUNDS):
        went = sum(rotate(about_vector(wish * ((n + 1) / count)), bone) - bone for n, bone in enumerate(bones))
        off = travel - went
        wish = wish + np.stack([off[:, 2] / rise, np.zeros(len(rise)), -off[:, 0] / rise], axis=1)
    angle = np.linalg.norm(wish, axis=1, keepdims=True)
    return about_vector(wish * _softly(angle) / np.maximum(angle, 1e-12))


def _softly(angle: Array) -> Array:
    limit = np.radians(LIMIT)
    over = np.maximum(angle - KNEE * limit, 0) / ((1 - KNEE) * limit)
    return np.where(over > 0, limit * (KNEE + (1 - KNEE) * np.tanh(over)), angle)
