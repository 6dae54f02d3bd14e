"""A body take stood up: files hold them with any axis up and facing any way; here up is +y, and they face +z at rest."""

from dataclasses import replace
from itertools import permutations, product

import numpy as np
from scipy.spatial.transform import Rotation

from dynaface.core.body.rotations import Array, between, multiply, rotate
from dynaface.core.body.skeleton import Motion
from dynaface.core.match.anatomy import anatomy_of

FACING = 0.5  # how sure it must be which way a body faces for it to be turned about up


def stood_up(motion: Motion) -> Motion:
    """The motion with up along +y and, where that is sure, facing +z; one whose skeleton shows no arms and legs stays as it is."""
    anatomy = anatomy_of(motion.skeleton)
    whole = min(anatomy.joint(part, "L") for part in ("upperarm", "upperleg")) >= 0
    if anatomy.axes is None or not whole:
        return motion
    turn = _squared(anatomy.axes) if anatomy.facing >= FACING else _up_only(anatomy.axes[1])
    if abs(turn[3]) > 1 - 1e-9:
        return motion
    skeleton = motion.skeleton
    rest, offsets, local = skeleton.rest.copy(), skeleton.offsets.copy(), motion.local.copy()
    for joint, parent in enumerate(skeleton.parents):
        if parent < 0:
            rest[joint] = multiply(turn, rest[joint])
            offsets[joint] = rotate(turn, offsets[joint])
            local[:, joint] = multiply(turn, local[:, joint])
    root = rotate(np.broadcast_to(turn, (motion.frames, 4)), motion.root)
    return replace(motion, skeleton=replace(skeleton, rest=rest, offsets=offsets), local=local, root=root)


def _squared(axes: Array) -> Array:
    """(4,) the rotation by quarter turns that comes nearest to bringing left, up, ahead (rows) to x, y, z."""
    best, most = np.eye(3), -np.inf
    for order, signs in product(permutations(range(3)), product((1, -1), repeat=3)):
        matrix = np.zeros((3, 3))
        matrix[range(3), order] = signs
        agreement = float((matrix * axes).sum())
        if np.linalg.det(matrix) > 0 and agreement > most:
            best, most = matrix, agreement
    return np.asarray(Rotation.from_matrix(best).as_quat())


def _up_only(up: Array) -> Array:
    """(4,) the shortest rotation by quarter turns that brings the axis nearest to up to +y."""
    axis = np.zeros(3)
    axis[np.argmax(np.abs(up))] = np.sign(up[np.argmax(np.abs(up))])
    return between(axis, np.array([0.0, 1.0, 0.0]))
