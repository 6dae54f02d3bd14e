"""Hands and feet arrive where those of the body did, scaled by size, on a character with other limbs."""

from typing import NamedTuple

import numpy as np

from dynaface.core.body.kernels import one_side
from dynaface.core.body.rotations import Array, inverse, multiply
from dynaface.core.body.skeleton import Skeleton
from dynaface.core.body.two_bones import Bones, bent
from dynaface.core.match.anatomy import anatomy_of
from dynaface.core.match.retarget import Matching, body_scale, travelling_joint

ARM, LEG = ("upperarm", "lowerarm", "hand"), ("upperleg", "lowerleg", "foot")


class Reach(NamedTuple):
    """0..1 each: 0 keeps the angles of the limb, 1 the place of its hand or foot."""

    arms: float = 0.0
    legs: float = 0.0


def arrived(source: Skeleton, places: Array, target: Skeleton, local: Array, root: Array, matching: Matching, reach: Reach) -> Array:  # fmt: skip
    """Local rotations (frames, joints, 4) of the target with its limbs bent so that their ends are where those of the source are, seen from
    the hips and scaled; hands and feet keep how they are turned.

    places: (frames, source joints, 3) global positions of the source; local, root: of the target.
    """
    hips = travelling_joint(source, matching.matches)
    if not hips or not any(reach):
        return local
    scale = body_scale(source, target, hips, matching.matches[hips])
    rotations, positions = target.pose(local, root)
    middle, theirs = positions[:, target.index(hips)], places[:, source.index(matching.matches[hips])]
    out = local.copy()
    for parts, weight in ((ARM, reach.arms), (LEG, reach.legs)):
        for side in ("L", "R"):
            bones = _bones(target, parts, side) if weight else None
            if bones is None or target.names[bones.end] not in matching.matches:
                continue
            end = source.index(matching.matches[target.names[bones.end]])
            wish = middle + scale * (places[:, end] - theirs)
            now = positions[:, bones.end]
            at = target.global_rest()[1]
            hinge = np.cross(at[bones.middle] - at[bones.top], [0.0, 0.0, 1.0])
            hinge /= max(float(np.linalg.norm(hinge)), 1e-9)
            top, below = bent(target, bones, rotations, positions, now + weight * (wish - now), hinge)
            out[:, bones.top] = multiply(inverse(target.carrier(bones.top, rotations)), top)
            out[:, bones.middle] = multiply(inverse(top), below)
            out[:, bones.end] = multiply(inverse(below), rotations[:, bones.end])
    one_side(out)
    return out


def _bones(skeleton: Skeleton, parts: tuple[str, str, str], side: str) -> Bones | None:
    """The joints of a limb where each hangs on the one before; None otherwise."""
    joints = [anatomy_of(skeleton).joint(part, side) for part in parts]
    if min(joints) < 0 or not skeleton.chained(joints):
        return None
    return Bones(*joints)
