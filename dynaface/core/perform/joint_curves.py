"""How chosen joints of a character turn and go: for the deck, and for trails."""

from collections.abc import Sequence

import numpy as np

from dynaface.core.body.rotations import head_angles, inverse, multiply
from dynaface.core.body.skeleton import Skeleton
from dynaface.core.cast.rig_curves import HALF_TURN
from dynaface.core.curves.channels import Channels
from dynaface.core.perform.perform import Performance
from dynaface.core.shapes.rig import SLIDE_AXES, turn_channels

PLACE = "at"  # in the names of what says where a joint is


def place_channels(joint: str) -> tuple[str, str, str]:
    """Names of the curves of where a joint is: to the left, up, ahead."""
    x, y, z = (f"joint {joint} {PLACE} {axis}" for axis in SLIDE_AXES)
    return x, y, z


def joint_curves(made: Performance, skeleton: Skeleton, joints: Sequence[str]) -> Channels:
    """Six curves a joint: degrees against its rest about its own y, then x, then z, without jumps of a whole turn, and metres of where it
    is in the character's own space. Joints that the skeleton does not have are left out.
    """
    motion = made.motion(skeleton)
    positions = skeleton.pose(motion.local, motion.root)[1]
    names: list[str] = []
    columns: list[np.ndarray] = []
    for joint in joints:
        if joint not in skeleton.names:
            continue
        index = skeleton.index(joint)
        turn = multiply(inverse(skeleton.rest[index]), motion.local[:, index])
        names += [*turn_channels(joint), *place_channels(joint)]
        columns += [np.unwrap(angle, period=360.0) for angle in head_angles(turn * HALF_TURN)]
        columns += list(positions[:, index].T)
    values = np.stack(columns, axis=1) if columns else np.zeros((made.channels.frames, 0))
    return Channels(tuple(names), values.astype(np.float32), made.channels.rate)
