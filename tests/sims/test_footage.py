"""Made-up performers: the same seed gives the same, they are not the general head, and what they do is what was asked."""

from dataclasses import replace
from fractions import Fraction

import numpy as np
import pytest
from scipy.spatial import cKDTree

from dynaface.core.curves.channels import Channels
from dynaface.core.shapes.standard import SHAPES
from dynaface.core.track.head import SKIN, TEETH
from dynaface.formats.head_file import general_head, landmark_places
from dynaface.sims.footage.clip import Setting, random_setting, render
from dynaface.sims.footage.dots import colours, film, head_mount, paint_centres
from dynaface.sims.footage.performer import JAW, make_performer
from dynaface.sims.footage.script import NAMES, expressive, head_turn, range_of_motion

HEAD = general_head()
SMALL = Setting(size=(160, 160), away=0.45)


@pytest.fixture(scope="module")
def performer():
    return make_performer(HEAD, 31)


def still(frames=1, **angles):
    values = np.zeros((frames, len(NAMES)), np.float32)
    for name, value in angles.items():
        values[:, NAMES.index(name)] = value
    return Channels(NAMES, values, Fraction(30))


def pictures(performer, channels, setting=SMALL, seed=1):
    return np.array(list(render(performer, channels, setting, seed)))


def test_the_same_seed_gives_the_same_performer_and_another_another(performer):
    again, other = make_performer(HEAD, 31), make_performer(HEAD, 32)
    assert (again.points == performer.points).all()
    assert (again.texture == performer.texture).all()
    assert np.linalg.norm(other.points - performer.points, axis=1).max() > 0.002


def test_no_performer_is_the_solvers_head(performer):
    for shape in ("mouthSmileLeft", "browInnerUp", "cheekPuff"):
        own, general = performer.shapes[SHAPES.index(shape)], HEAD.shapes[SHAPES.index(shape)]
        change = np.linalg.norm(own - general) / np.linalg.norm(general)
        assert 0.05 < change < 0.8, (shape, change)


@pytest.mark.parametrize("seed", [8, 31, 203])
def test_lips_that_touch_at_rest_part_when_the_jaw_opens(seed):
    skin = np.unique(HEAD.triangles[HEAD.part == SKIN])
    one, other = skin[cKDTree(HEAD.points[skin]).query_pairs(0.006, output_type="ndarray")].T
    general = HEAD.points + HEAD.shapes[JAW]
    seam = np.linalg.norm(general[one] - general[other], axis=1) > 0.025
    assert seam.sum() > 20
    opened = make_performer(HEAD, seed).pose(np.eye(52)[JAW])
    apart = np.linalg.norm(opened[one[seam]] - opened[other[seam]], axis=1)
    assert np.quantile(apart, 0.05) > 0.015


def test_teeth_stay_whole(performer):
    upper = np.unique(HEAD.triangles[HEAD.part == TEETH])
    upper = upper[np.linalg.norm(HEAD.shapes[JAW][upper], axis=1) < 1e-4]
    assert len(upper) > 30
    assert performer.pose(np.eye(52)[JAW])[upper] == pytest.approx(performer.points[upper], abs=1e-4)


def test_rest_is_rest(performer):
    assert performer.pose(np.zeros(52)) == pytest.approx(performer.points)


def test_the_jaw_turns_about_a_hinge_and_comes_to_its_full_shape(performer):
    chin = np.argmin(
        np.where(np.abs(performer.points[:, 0]) < 0.006, performer.points[:, 1] - performer.points[:, 2], 9)
    )
    half, full = (performer.pose(np.eye(52)[JAW] * w)[chin] - performer.points[chin] for w in (0.5, 1.0))
    assert full[1] < -0.01
    # A straight line would pass through the middle of the way; a turn does not.
    assert np.linalg.norm(half - full / 2) > 1e-4


def test_two_shapes_together_do_not_simply_add(performer):
    one, two = (np.eye(52)[SHAPES.index(s)] for s in ("mouthSmileLeft", "mouthPucker"))
    both = performer.pose(one + two) - performer.points
    apart = performer.pose(one) + performer.pose(two) - 2 * performer.points
    assert np.linalg.norm(both) < 0.97 * np.linalg.norm(apart)


def test_a_face_is_drawn_and_moves_when_asked(performer):
    rest, opened = pictures(performer, still()), pictures(performer, still(jawOpen=0.9))
    assert rest.shape == (1, 160, 160, 3)
    assert rest.dtype == np.uint8
    changed = np.abs(rest.astype(int) - opened).max(axis=3)[0] > 25
    rows = np.nonzero(changed.any(axis=1))[0]
    assert changed.sum() > 60
    assert rows.mean() > 80  # the lower half


def test_the_head_turns_to_the_performers_left_on_the_right_of_the_picture(performer):
    quiet = replace(SMALL, noise=0.0, ground=(0.0, 0.0, 0.0))
    left, right = (pictures(performer, still(headTurn=a), quiet)[0].astype(float) for a in (30.0, -30.0))
    # The nose, the brightest ridge, goes to the side to which the head turns.
    columns = np.arange(160)
    face = slice(40, 110)

    def middle(image):
        grey = image[face].mean(axis=2)
        return (grey.sum(axis=0) * columns).sum() / grey.sum()

    assert middle(left) != pytest.approx(middle(right), abs=1.0)


def test_a_head_mount_does_not_see_the_head_turn(performer):
    mounted = replace(SMALL, mounted=True, noise=0.0)
    assert (pictures(performer, still(headTurn=25.0), mounted) == pictures(performer, still(), mounted)).all()


def test_a_hand_covers_the_mouth_and_only_while_it_is_there(performer):
    shot = replace(SMALL, hands=((2, 8),), noise=0.0)
    frames = pictures(performer, still(11), shot).astype(int)
    assert (frames[0] == frames[10]).all()
    assert (np.abs(frames[5] - frames[0]).max(axis=2) > 20).sum() > 300


def test_settings_differ_by_seed_and_stay_within_what_cameras_do():
    made = [random_setting(s) for s in range(20)]
    assert len({s.fov for s in made}) == 20
    assert all(20 < s.fov < 60 and 0.2 < s.away < 1.2 and 0 < s.noise < 0.05 for s in made)


def test_a_range_of_motion_shows_each_shape_at_its_extreme():
    made, named = range_of_motion(3)
    first, last = named["neutral"]
    assert not made.values[first : last + 1, :52].any()
    assert set(named["samples"]) == set(SHAPES)
    for shape, frame in named["samples"].items():
        assert made.column(shape)[frame] == pytest.approx(1.0)
        if shape.endswith("Left") and not shape.startswith(("eyeLook", "jaw", "mouthLeft")):
            other = [s for s, f in named["samples"].items() if f == frame]
            assert len(other) <= 2


def test_a_head_turn_is_neutral_but_for_the_head():
    made = head_turn(1)
    assert not made.values[:, :52].any()
    assert np.abs(made.column("headTurn")).max() > 15


@pytest.mark.parametrize("seed", [1, 2])
def test_a_performance_stays_within_its_limits_and_uses_the_whole_face(seed):
    made = expressive(8.0, seed)
    shapes = made.values[:, :52]
    assert ((shapes >= 0) & (shapes <= 1)).all()
    assert (shapes.max(axis=0) > 0.25).sum() >= 12
    assert (expressive(8.0, seed).values == made.values).all()


def test_the_paint_of_a_dot_is_seen_about_its_place_and_not_at_all_behind_the_head(performer):
    there = colours(("bridge of the nose", "cheek mid left", "cheek mid right"))
    args = (performer, landmark_places(), still(), replace(head_mount(31), shake=0.0), 1, there)
    made = film(*args)
    next(made.pictures)
    seen = paint_centres(*args)
    assert seen.shape == (1, 3, 2)
    assert np.linalg.norm(seen - made.centres[0], axis=2).max() < 0.4
    turned = Setting(size=(320, 320), away=0.45)
    away = paint_centres(performer, landmark_places(), still(headTurn=75.0), turned, 1, there)
    assert np.isnan(away[0]).any(axis=1).tolist() in ([False, True, False], [False, False, True])
