"""The motion of a camera round a still head: the head's poses seen the other way about."""

import numpy as np

from dynaface.core.body.rotations import head_angles, inverse, rotate
from dynaface.core.track.head import Array


def camera_motion(poses: Array) -> Array:
    """(frames, 6): place of the camera in metres in head space (x to the person's left, y up, z ahead of the face), then its
    turn, nod and tilt in degrees, 0 where it looks straight into the face; NaN where no face was seen.

    poses: (frames, 7) turn and place of the head in camera space.
    """
    known = np.isfinite(poses[:, 0])
    back = inverse(poses[known, :4])
    out = np.full((len(poses), 6), np.nan)
    out[known, :3] = rotate(back, -poses[known, 4:])
    out[known, 3:] = np.stack(head_angles(back), axis=1)
    return out
