"""Camera, poses and fitting them."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from dynaface.core.body.rotations import head_angles, head_rotation
from dynaface.core.track.camera import Pose, camera_of, moved, pose_slopes
from dynaface.core.track.likeness import fit_likeness, fit_pose
from dynaface.formats.head_file import general_head, landmark_places

CAMERA = camera_of(640, 480, 40.0)
UPRIGHT = np.array([0.0, 0.0, 0.0, 1.0])


def posed(turn=0.0, nod=0.0, tilt=0.0, place=(0.01, -0.02, -0.5)):
    return Pose(head_rotation(*(np.array([float(a)]) for a in (turn, nod, tilt)))[0], np.array(place))


def test_what_lies_on_the_axis_is_seen_in_the_middle():
    assert CAMERA.project(np.array([0.0, 0.0, -1.0])) == pytest.approx([320, 240])
    # Forty degrees from top to bottom.
    top = np.array([0.0, np.tan(np.radians(20)), -1.0])
    assert CAMERA.project(top) == pytest.approx([320, 0])


def test_the_persons_left_is_on_the_right_of_the_picture():
    assert (
        CAMERA.project(posed().see(np.array([[0.03, 0, 0]])))[0, 0]
        > CAMERA.project(posed().see(np.zeros((1, 3))))[0, 0]
    )


def test_seeing_and_unseeing_are_inverse():
    points = np.random.default_rng(1).normal(0, 0.1, (20, 3))
    pose = posed(20, -10, 5)
    assert pose.unsee(pose.see(points)) == pytest.approx(points, abs=1e-12)


@given(st.lists(st.floats(-1, 1), min_size=6, max_size=6))
def test_slopes_are_what_small_steps_do(step):
    points = np.random.default_rng(2).normal(0, 0.05, (5, 3))
    pose = posed(12, 5, -8)
    small = np.array(step) * 1e-5
    _, _, by_pose = pose_slopes(CAMERA, pose, points)
    before, after = CAMERA.project(pose.see(points)), CAMERA.project(moved(pose, small).see(points))
    assert after - before == pytest.approx(by_pose @ small, abs=2e-5)


@pytest.mark.parametrize("angles", [(0, 0, 0), (25, 0, 0), (-20, 10, 5), (5, -15, -12)])
def test_a_pose_is_found_again_exactly(angles):
    points = landmark_places().on(general_head().points)
    pose = posed(*angles)
    found = fit_pose(CAMERA, points, CAMERA.project(pose.see(points)), None, np.ones(len(points)), 40)
    assert found.place == pytest.approx(pose.place, abs=1e-5)
    assert np.array(head_angles(found.turn)) == pytest.approx(np.array(angles, float), abs=1e-3)


def test_a_pose_is_not_led_astray_by_some_wrong_points():
    points = landmark_places().on(general_head().points)
    pose = posed(8, -4, 2)
    pixels = CAMERA.project(pose.see(points))
    pixels[::12] += 60
    found = fit_pose(CAMERA, points, pixels, None, np.ones(len(points)), 60)
    assert np.array(head_angles(found.turn)) == pytest.approx([8, -4, 2], abs=0.5)


def test_a_likeness_comes_nearer_to_the_performer_than_the_general_head():
    head, places = general_head(), landmark_places()
    rng = np.random.default_rng(4)
    own = head.points + np.tensordot(rng.normal(0, 0.4, len(head.modes)), head.modes, axes=1)
    poses = [posed(a, b, 0) for a, b in ((0, 0), (18, 0), (-18, 4), (0, 12), (0, -12))]
    made = fit_likeness(head, places, CAMERA, [CAMERA.project(p.see(places.on(own))) for p in poses])

    def away(points):
        at, true = places.on(points), places.on(own)
        at, true = at - at.mean(axis=0), true - true.mean(axis=0)
        scale = (at * true).sum() / (at * at).sum()
        return np.sqrt((((at * scale) - true) ** 2).sum(axis=1).mean())

    assert away(made.points) < 0.5 * away(head.points)
