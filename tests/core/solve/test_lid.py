"""The lid's edge between an open eye and a shut one."""

import cv2
import numpy as np
import pytest

from dynaface.core.shapes.standard import SHAPES
from dynaface.core.solve.features import lid_equations
from dynaface.core.track.iris import DEGREE, Look
from dynaface.core.track.lid import Lid, LidFinder

ROWS, COLUMNS = 134, 222
RNG = np.random.default_rng(3)
SKIN = cv2.GaussianBlur(RNG.normal(0, 40, (ROWS, COLUMNS)), (0, 0), 3) + 150


def slit():
    """Rows of the slit's upper and lower rim in each column."""
    bow = 30 * np.clip(1 - (np.abs(np.arange(COLUMNS) - COLUMNS / 2) / 62) ** 2, 0, None)
    return ROWS / 2 - bow, ROWS / 2 + 0.7 * bow


def eye(shut, iris=0.0):
    """An eye whose upper lid has come down by a share; the iris looks aside by degrees."""
    top, bottom = slit()
    y, x = np.mgrid[0:ROWS, 0:COLUMNS]
    white = 225 - 170 * (np.hypot(y - ROWS / 2, x - COLUMNS / 2 - iris / DEGREE) < 26)
    edge = top + shut * (bottom - top)
    return np.where((y > edge) & (y < bottom), white, SKIN).astype(np.float32)


@pytest.mark.parametrize("shut", [0.0, 0.25, 0.5, 0.75, 1.0])
@pytest.mark.parametrize("iris", [-3.0, 0.0, 3.0])
def test_the_height_of_the_lid_is_found_wherever_the_eye_looks(shut, iris):
    finder = LidFinder(eye(0), eye(1))
    found = finder.find(eye(shut, iris) * 0.8 + 12)  # in another light
    assert found.shut == pytest.approx(shut, abs=0.1)


@pytest.mark.parametrize("iris", [-14.0, 9.0])
@pytest.mark.parametrize("shut", [0.0, 0.5])
def test_where_the_eye_looks_is_taken_into_account(shut, iris):
    found = LidFinder(eye(0), eye(1)).find(eye(shut, iris), Look(iris, 0.0, 0.9))
    assert found.shut == pytest.approx(shut, abs=0.1)
    assert found.alike > 0.85


def test_an_iris_that_was_found_on_a_shut_lid_does_not_hide_that_it_is_shut():
    found = LidFinder(eye(0), eye(1)).find(eye(1), Look(25.0, 26.0, 0.8))
    assert found.shut > 0.9
    assert found.alike > 0.85


def test_what_is_no_eye_is_unlike():
    finder = LidFinder(eye(0), eye(1))
    hand = cv2.GaussianBlur(RNG.normal(0, 60, (ROWS, COLUMNS)), (0, 0), 5).astype(np.float32) + 120
    assert finder.find(hand).alike < 0.5


def test_a_hand_before_the_eye_is_no_shut_eye_though_the_iris_is_gone():
    finder = LidFinder(eye(0), eye(1))
    for seed in range(8):
        blur = (3, 5, 9, 14)[seed % 4]
        rough = cv2.GaussianBlur(np.random.default_rng(seed).normal(0, 60, (ROWS, COLUMNS)), (0, 0), blur) + 120
        assert finder.find(rough.astype(np.float32), Look(3.0, 2.0, 0.1), 0.2).alike < 0.65


def test_a_blurred_shut_lid_is_believed_where_the_iris_is_gone():
    finder = LidFinder(eye(0), eye(1))
    noisy = eye(1) + RNG.normal(0, 30, (ROWS, COLUMNS)).astype(np.float32)
    alone, both = finder.find(noisy, Look(3.0, 2.0, 0.8), 1.0), finder.find(noisy, Look(3.0, 2.0, 0.1), 1.0)
    assert both.shut > 0.9
    assert both.alike > alone.alike


def test_a_sample_in_which_the_eye_stays_open_is_of_no_use():
    assert not LidFinder(eye(0), eye(0) + RNG.normal(0, 2, (ROWS, COLUMNS)).astype(np.float32)).usable


def test_a_shut_eye_pulls_the_blink_up_and_the_wide_eye_down_and_looking_down_is_taken_off():
    left, wide = SHAPES.index("eyeBlinkLeft"), SHAPES.index("eyeWideLeft")
    shut = lid_equations([(0, Lid(1.0, 0.95), 0.0)])
    assert shut.b[left] / shut.a[left, left] == pytest.approx(1)
    assert shut.a[wide, wide] > 0
    down = lid_equations([(0, Lid(0.5, 0.95), 0.5)])
    assert down.b[left] == 0
    assert not lid_equations([(0, Lid(1.0, 0.5), 0.0)]).a.any()
