"""Hands and feet that go somewhere else than a motion has them; limbs bend so that they reach."""

from collections.abc import Mapping

import numpy as np

from dynaface.core.body.rotations import Array, about_vector, continuous, headings, inverse, multiply, rotate
from dynaface.core.body.skeleton import Skeleton
from dynaface.core.body.two_bones import KNEE_AXIS, elbow_axis, lay
from dynaface.core.match.anatomy import anatomy_of
from dynaface.core.match.limb_bones import limbs_of


def reached(skeleton: Skeleton, local: Array, root: Array, ways: Mapping[str, Array]) -> Array:
    """Local rotations (frames, joints, 4) with limbs moved; hands and feet keep how they are turned. ways: limb -> (frames, 3) metres to the
    left, up and ahead as the hips face.
    """
    out, limbs = local.copy(), limbs_of(skeleton)
    for limb, way in ways.items():
        rows = np.flatnonzero(np.abs(way).sum(axis=1) > 0)
        if limb not in limbs or not len(rows):
            continue
        bones = limbs[limb]
        rotations, positions = skeleton.pose(out[rows], root[rows])
        wish = positions[:, bones.end] + rotate(_facing(skeleton, rotations), way[rows])
        hinge = elbow_axis(skeleton, bones) if limb.startswith("hand") else KNEE_AXIS
        turned = lay(skeleton, bones, rotations, positions, wish, rotations[:, bones.end], hinge)
        for joint, turn in turned.items():
            out[rows, joint] = turn
            out[:, joint] = continuous(out[:, joint])
    return out


def _facing(skeleton: Skeleton, rotations: Array) -> Array:
    """(frames, 4) about up, which way the hips face; ahead without hips."""
    hips = max(anatomy_of(skeleton).joint("hips"), 0)
    turned = multiply(rotations[:, hips], inverse(skeleton.global_rest()[0][hips]))
    return about_vector(headings(turned)[:, None] * np.array([0.0, 1.0, 0.0]))
