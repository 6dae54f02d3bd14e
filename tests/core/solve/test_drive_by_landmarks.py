"""Channels that are a distance on the face, read from landmarks whatever way the head turns."""

from fractions import Fraction
from types import SimpleNamespace

import numpy as np
import pytest

from dynaface.core.body.rotations import head_rotation
from dynaface.core.curves.channels import Channels
from dynaface.core.errors import InputError
from dynaface.core.markers.chart import MARKS
from dynaface.core.shapes.standard import SHAPES
from dynaface.core.solve.drive_by_landmarks import driven_by_landmarks, parse_place_drives, places_on_head
from dynaface.core.track.camera import Pose, camera_of
from dynaface.formats.head_file import general_head, landmark_places

FRAMES = 24
JAW = SHAPES.index("jawOpen")


@pytest.fixture(scope="module")
def turning():
    """(card, landmarks (frames, 478, 2), poses (frames, 7), opening 0..1): a head that turns and nods while the jaw opens."""
    head, places = general_head(), landmark_places()
    card = SimpleNamespace(points=head.points, shapes=head.shapes, camera=camera_of(640, 480, 50))
    opening = np.linspace(0, 1, FRAMES)
    pixels, poses = np.full((FRAMES, 478, 2), np.nan), np.full((FRAMES, 7), np.nan)
    for frame, wide in enumerate(opening):
        angle = np.sin(frame / 4)
        turn = head_rotation(np.array([12 * angle]), np.array([6 * angle]), np.array([3 * angle]))[0]
        pose = Pose(turn, np.array([0.01, 0.0, -0.55]))
        points = head.points + wide * head.shapes[JAW]
        pixels[frame, :468] = card.camera.project(pose.see(places.on(points)[:468]))
        poses[frame] = np.concatenate([pose.turn, pose.place])
    return card, pixels, poses, opening


def on_head(turning, poses=None, weights=None):
    card, pixels, seen, opening = turning
    if weights is None:
        weights = np.zeros((FRAMES, 52))
        weights[:, JAW] = opening
    return places_on_head(card, general_head(), landmark_places(), pixels, seen if poses is None else poses, weights)


def test_a_distance_opens_a_jaw_however_the_head_turns(turning):
    card, _, _, opening = turning
    points, still = on_head(turning)
    full = general_head().points + general_head().shapes[JAW]
    at = [MARKS["upper lip mid"], MARKS["chin pad"]]
    away = [np.linalg.norm(np.diff(landmark_places().on(p)[at], axis=0)) * 1000 for p in (card.points, full)]
    drives = parse_place_drives({"jawOpen": {"from": "upper lip mid", "to": "chin pad", "reach": away[1] - away[0]}})
    nothing = Channels(SHAPES, np.zeros((FRAMES, 52), np.float32), Fraction(30), 0.0, None)
    made = driven_by_landmarks(nothing, drives, points, still).column("jawOpen")
    assert np.abs(made - opening).max() < 0.08
    assert np.corrcoef(made, opening)[0, 1] > 0.99


def test_where_no_face_is_seen_the_channel_stays_as_it_was(turning):
    lost = turning[2].copy()
    lost[5] = np.nan
    points, still = on_head(turning, poses=lost)
    before = Channels(SHAPES, np.full((FRAMES, 52), 0.4, np.float32), Fraction(30), 0.0, None)
    drives = parse_place_drives({"jawOpen": {"from": "nose tip", "to": "chin", "rest": 1000, "reach": -10}})
    made = driven_by_landmarks(before, drives, points, still).column("jawOpen")
    assert made[5] == pytest.approx(0.4)
    assert made[6] == 1.0


def test_only_places_of_the_chart_drive(turning):
    with pytest.raises(InputError, match="elbow"):
        parse_place_drives({"jawOpen": {"from": "elbow", "to": "chin"}})
    with pytest.raises(InputError, match="frames"):
        on_head(turning, weights=np.zeros((3, 52)))
