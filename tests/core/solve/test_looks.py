"""Irises on their balls, landmarks as features, the stillest second."""

import cv2
import numpy as np
import pytest

from dynaface.core.shapes.standard import SHAPES
from dynaface.core.solve.card import eyeball_radius
from dynaface.core.solve.features import SIZE, FeatureModel, believe, landmark_features, look_equations
from dynaface.core.track.camera import Pose, camera_of
from dynaface.core.track.head import EYES
from dynaface.core.track.iris import DEGREE, NOD, TURN, IrisFinder, Look, Slit
from dynaface.core.track.landmarks import Landmarks
from dynaface.core.track.lid import Lid
from dynaface.core.track.neutral import stillest
from dynaface.formats.head_file import general_head

UPRIGHT = np.array([0.0, 0.0, 0.0, 1.0])


OPEN = Slit(0.0, 0.0, 0.0, 18.0)


def eye(turn=0.0, nod=0.0, lid=18.0, lashes=130.0, follows=0.0):
    """A ball with an iris at a look, lids above and below; lashes: how bright the lids are near the eye; follows: the share of the nod by
    which the upper lid goes along.
    """
    x, y = np.meshgrid(np.arange(-TURN, TURN + 1e-6, DEGREE), np.arange(NOD, -NOD - 1e-6, -DEGREE))
    away = np.hypot(x - turn, y - nod)
    picture = np.where(away < 27, 70.0, 210.0)
    picture[away < 10] = 20
    upper = lid + follows * nod
    picture[(y > upper) | (y < -lid)] = lashes
    picture[(y > upper + 8) | (y < -lid - 8)] = 130
    return cv2.GaussianBlur(picture.astype(np.float32), (0, 0), 1.5)


@pytest.mark.parametrize(("turn", "nod"), [(0, 0), (12, 0), (-18.5, 0), (0, 6), (9, -5)])
def test_a_look_is_found_as_a_shift(turn, nod):
    finder = IrisFinder(np.zeros(3), 0.012)
    finder.learn(eye(), OPEN)
    found = finder.find(eye(turn, nod))
    assert found.turn == pytest.approx(turn, abs=0.5)
    assert found.nod == pytest.approx(nod, abs=1.0)
    assert found.alike > 0.9


@pytest.mark.parametrize(("turn", "nod"), [(0, 0), (-21, 0), (20, 3), (0, 11), (4, -10)])
def test_lashes_darker_than_the_iris_are_not_followed(turn, nod):
    finder = IrisFinder(np.zeros(3), 0.012)
    finder.learn(eye(lashes=15), Slit(2.0, -3.0, 0.0, 18.0))  # the landmark is a little off
    found = finder.find(eye(turn, nod, lashes=15, follows=0.6))
    assert found.turn == pytest.approx(turn, abs=1.0)
    assert found.nod == pytest.approx(nod, abs=1.5)


@pytest.mark.parametrize("light", [0.5, 1.6])
def test_a_look_is_found_in_another_light(light):
    finder = IrisFinder(np.zeros(3), 0.012)
    finder.learn(eye(), OPEN)
    found = finder.find((eye(9, -4) * light).astype(np.float32))
    assert (found.turn, found.nod) == (pytest.approx(9, abs=0.6), pytest.approx(-4, abs=1.0))


@pytest.mark.parametrize("lid", [12.0, 26.0])
def test_an_eye_that_opens_or_narrows_does_not_look_up_or_down(lid):
    finder = IrisFinder(np.zeros(3), 0.012)
    finder.learn(eye(), OPEN)
    found = finder.find(eye(lid=lid))
    assert (found.turn, found.nod) == (pytest.approx(0, abs=0.6), pytest.approx(0, abs=1.0))


def test_the_open_eye_is_where_its_landmarks_are():
    centre, radius = np.array([0.03, 0.01, 0.02]), 0.012
    marks = np.zeros((478, 2))
    for mark, (turn, nod) in {473: (10, -4), 386: (0, 15), 374: (0, -21)}.items():
        away = np.radians([turn, nod])
        aside = radius * np.array([np.sin(away[0]) * np.cos(away[1]), np.sin(away[1])])
        marks[mark] = (centre[:2] + aside) * 1000
    found = IrisFinder(centre, radius).slit(marks, 0)
    assert found.turn == pytest.approx(10, abs=1e-3)
    assert (found.nod, found.middle, found.half) == pytest.approx((-4, -3, 18), abs=1e-3)


def test_a_closed_eye_is_no_look():
    finder = IrisFinder(np.zeros(3), 0.012)
    finder.learn(eye(), OPEN)
    shut = np.random.default_rng(1).normal(130, 3, eye().shape).astype(np.float32)
    assert finder.find(shut).alike < 0.55


def test_a_closed_eye_says_nothing_of_the_gaze():
    basis = np.random.default_rng(1).normal(0, 10, (4, 52))
    told = look_equations(basis, (Look(10, 5, 0.3), Look(10, 5, 0.2)))
    assert not told.a.any()
    assert not told.b.any()


@pytest.mark.parametrize(("shut", "alike", "share"), [(0.0, 0.9, 1), (0.4, 0.9, 0.5), (0.9, 0.9, 0), (0.9, 0.3, 1)])
def test_what_looks_like_an_iris_on_a_lid_says_nothing_of_the_gaze(shut, alike, share):
    basis = np.random.default_rng(1).normal(0, 10, (4, 52))
    looks = Look(25, 26, 0.8), Look(0, 0, 0.1)
    plain, told = look_equations(basis, looks), look_equations(basis, looks, [(0, Lid(shut, alike), 0.0)])
    assert told.b == pytest.approx(share * plain.b)


def test_eyeballs_are_as_large_as_the_heads_own():
    head = general_head()
    own = head.points[np.unique(head.triangles[head.part == EYES])]
    left = own[own[:, 0] > 0]
    # A sphere through points: |p|^2 = 2 c.p + r^2 - |c|^2.
    solved = np.linalg.lstsq(np.column_stack([2 * left, np.ones(len(left))]), (left**2).sum(axis=1), rcond=None)[0]
    radius = np.sqrt(solved[3] + (solved[:3] ** 2).sum())
    assert eyeball_radius(head, head.points) == pytest.approx(radius, abs=2e-4)
    assert eyeball_radius(head, 0.9 * head.points) == pytest.approx(0.9 * radius, abs=2e-4)


def test_landmarks_leave_the_heads_motion_behind():
    camera = camera_of(512, 512, 40)
    places = np.random.default_rng(2).normal(0, 0.05, (478, 3))
    here = Pose(UPRIGHT, np.array([0, 0, -0.5]))
    there = Pose(np.array([0.0, 0.1305, 0.0, 0.9914]) / np.hypot(0.1305, 0.9914), np.array([0.03, 0.01, -0.6]))
    one, other = (
        landmark_features(camera, camera.project(p.see(places)), np.zeros(52), p, places) for p in (here, there)
    )
    assert other == pytest.approx(one, abs=1e-6)
    assert one[:2] == pytest.approx(places[0, :2] * 1000)


def test_what_is_believed_is_positive_and_halves_can_be_hidden():
    rng = np.random.default_rng(3)
    model = FeatureModel(
        np.zeros(SIZE), rng.normal(0, 1, (SIZE, 52)), rng.normal(0, 0.3, (20, SIZE)), rng.normal(0, 0.04, (478, 3))
    )
    believed = believe(model)
    features = model.basis[:, SHAPES.index("jawOpen")] * 0.5
    seen, hidden = believed.equations(features, 1, 1), believed.equations(features, 1, 0)
    assert np.linalg.eigvalsh(seen.a).min() > -1e-6
    assert np.trace(hidden.a) < np.trace(seen.a)
    assert not believed.equations(features, 0, 0).b.any()


def test_the_stillest_second_is_neutral():
    rng = np.random.default_rng(5)
    base = rng.uniform(100, 300, (478, 2))
    base[10], base[152] = (200, 100), (200, 300)
    rows = []
    for frame in range(120):
        scores = np.zeros(52, np.float32)
        still = 50 <= frame < 85
        scores[SHAPES.index("jawOpen")] = 0.0 if still else 0.6
        rows.append(Landmarks(base + (0 if still else rng.normal(0, 4, base.shape)), scores))
    rows[3] = None
    first, last = stillest(rows, 30.0)
    assert 48 <= first <= 57
    assert last == first + 29


def test_landmarks_that_are_nowhere_near_the_eye_do_no_harm():
    finder = IrisFinder(np.zeros(3), 0.012)
    finder.learn(eye(), finder.slit(np.full((478, 2), 80.0), 1))
    assert -1 <= finder.find(eye(9)).alike <= 1
