"""Where the camera is, from where it saw the head."""

from fractions import Fraction

import numpy as np
import pytest

from dynaface.core.body.rotations import head_rotation, inverse, rotate
from dynaface.core.solve.camera_motion import camera_motion
from dynaface.core.track.camera import Pose
from dynaface.formats.camera_table import write_camera


def test_the_camera_is_found_again_and_a_lost_frame_is_blank():
    place, angles = np.array([0.2, 0.05, 0.5]), (20.0, -10.0, 5.0)
    turn = head_rotation(*(np.array([a]) for a in angles))[0]
    seen = inverse(turn)
    pose = np.concatenate([seen, rotate(seen, -place)])
    motion = camera_motion(np.stack([pose, np.full(7, np.nan)]))
    assert motion[0] == pytest.approx([*place, *angles], abs=1e-9)
    assert np.isnan(motion[1]).all()
    # What the pose sees at the camera's place is the camera itself.
    assert Pose(seen, pose[4:]).see(place[None]) == pytest.approx(np.zeros((1, 3)), abs=1e-12)
    text = write_camera(motion, Fraction(30), 12).decode().splitlines()
    assert text[1].startswith("12,0.400000,0.200000,0.050000,0.500000,20.000000")
    assert text[2] == "13,0.433333,,,,,,"
