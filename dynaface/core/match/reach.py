"""Hands and feet arrive where those of the body did, scaled by size, on a character with other limbs."""

from typing import NamedTuple

from dynaface.core.body.kernels import one_side
from dynaface.core.body.rotations import Array
from dynaface.core.body.skeleton import Skeleton
from dynaface.core.body.two_bones import elbow_axis, lay
from dynaface.core.match.limb_bones import ARM, LEG, bones_of
from dynaface.core.match.retarget import Matching, body_scale, travelling_joint


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
            bones = bones_of(target, parts, side) if weight else None
            if bones is None or target.names[bones.end] not in matching.matches:
                continue
            end = source.index(matching.matches[target.names[bones.end]])
            wish = middle + scale * (places[:, end] - theirs)
            now, turn = positions[:, bones.end], rotations[:, bones.end]
            wish = now + weight * (wish - now)
            for joint, own in lay(target, bones, rotations, positions, wish, turn, elbow_axis(target, bones)).items():
                out[:, joint] = own
    one_side(out)
    return out
