"""What is said of a face before a live camera."""

import numpy as np
import pytest

from dynaface.core.body.rotations import head_rotation
from dynaface.core.track.camera import Pose, camera_of
from dynaface.core.track.framing import framing
from dynaface.core.track.landmarks import Landmarks
from dynaface.formats.head_file import general_head, landmark_places

HEAD, PLACES = general_head(), landmark_places()
CAMERA = camera_of(640, 480, 45.0)


def face(away=0.45, turn=0.0, aside=0.0):
    """Landmarks of the general head before the camera."""
    pose = Pose(head_rotation(np.array([turn]), np.array([0.0]), np.array([0.0]))[0], np.array([aside, 0.03, -away]))
    points = np.zeros((478, 2), np.float32)
    points[:468] = CAMERA.project(pose.see(PLACES.on(HEAD.points)))
    return Landmarks(points, np.zeros(52, np.float32))


def words(found, grey=120):
    return " ".join(framing(np.full((480, 640), grey, np.uint8), found, PLACES, HEAD.points))


def test_a_face_that_stands_well_needs_no_words():
    assert words(face()) == ""


@pytest.mark.parametrize(("found", "grey", "says"), [
    (face(away=1.6), 120, "come closer"), (face(away=0.18), 120, "move back"), (face(), 30, "turn to a light"),
    (face(), 250, "less light"), (face(aside=0.14), 120, "to the middle"), (face(turn=35), 120, "look ahead"),
    (None, 120, "look into the camera"), (None, 10, "too dark"),
])  # fmt: skip
def test_what_is_wrong_is_said_with_what_to_do(found, grey, says):
    assert says in words(found, grey)
