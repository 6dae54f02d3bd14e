"""How far joints of a body turn from rest, and by how much they do so farther."""

import numpy as np
from scipy.spatial.transform import Rotation

from dynaface.core.body.rotations import Array, inverse, multiply, rotate
from dynaface.core.body.skeleton import Motion
from dynaface.core.match.anatomy import anatomy_of

# Degrees from rest at most, whichever way: what most people reach, and some more.
CONES = {
    "spine": 75.0,
    "neck": 75.0,
    "head": 85.0,
    "lowerarm": 165.0,
    "lowerleg": 165.0,
    "hand": 105.0,
    "foot": 85.0,
    "toe": 85.0,
}
FORWARD = 12.0  # degrees by which a knee bends the wrong way at most


def beyond_limits(motion: Motion, give: float = 0.0) -> dict[int, Array]:
    """joint -> (frames, 3) rotation vectors in radians, in the joint's own frame after its turn, that bring it back to its limit; 0 where it is
    within. Only joints that are ever beyond; give: degrees by which limits are wider.
    """
    skeleton, anatomy = motion.skeleton, anatomy_of(motion.skeleton)
    out: dict[int, Array] = {}
    for joint, slot in anatomy.slots.items():
        if slot.part not in CONES:
            continue
        turn = Rotation.from_quat(multiply(inverse(skeleton.rest[joint]), motion.local[:, joint])).as_rotvec()
        angle = np.linalg.norm(turn, axis=1)
        most = np.radians(CONES[slot.part] + give)
        back = -turn * (np.maximum(angle - most, 0) / np.maximum(angle, 1e-9))[:, None]
        if slot.part == "lowerleg" and anatomy.axes is not None:
            back = back + _knee(motion, joint, anatomy.axes[0], turn, give)
        if np.abs(back).max(initial=0) > 0:
            out[joint] = back
    return out


def _knee(motion: Motion, joint: int, left: Array, turn: Array, give: float) -> Array:
    """(frames, 3) by which a knee that bends forward goes back: bending is a turn to the left's axis, as the right hand turns."""
    axis = rotate(inverse(motion.skeleton.global_rest()[0][joint]), left)
    bent = turn @ axis
    over = np.minimum(bent + np.radians(FORWARD + give), 0)
    return -over[:, None] * axis
