"""Lids of which nothing is known are followed by how far the landmarks between them are apart."""

import numpy as np
import pytest

from dynaface.core.shapes.standard import SHAPES
from dynaface.core.solve.features import LID_PAIRS, SIZE, opening_equations, openings

LEFT, RIGHT = (SHAPES.index(f"eyeBlink{side}") for side in ("Left", "Right"))


def features(left: float, right: float) -> np.ndarray:
    """(SIZE,) with lids so many millimetres apart."""
    marks = np.zeros((478, 2))
    for pairs, apart in zip(LID_PAIRS, (left, right), strict=True):
        for up, low in pairs:
            marks[up, 1], marks[low, 1] = apart / 2, -apart / 2
    return np.concatenate([marks.ravel(), np.zeros(SIZE - marks.size)])


REST = features(10, 12)
BOTH = [(0, 0.0, 1.0), (1, 0.0, 1.0)]


def blinks(left: float, right: float, eyes=BOTH) -> list[float]:
    """The weights that the equations alone ask for, with a little that holds them at 0."""
    found = opening_equations(REST, features(left, right), eyes)
    others = np.delete(np.arange(len(SHAPES)), [LEFT, RIGHT])
    assert not found.a[others].any()
    assert not found.b[others].any()
    return np.linalg.solve(found.a + 100 * np.eye(len(SHAPES)), found.b)[[LEFT, RIGHT]].tolist()


def test_openings_are_those_between_the_lids():
    assert openings(REST[:956].reshape(-1, 2)).tolist() == [10, 12]


def test_shut_eyes_are_shut_each_by_itself():
    assert blinks(1.5, 1.8) == pytest.approx([1, 1], abs=0.06)
    assert blinks(1.5, 12) == pytest.approx([1, 0], abs=0.06)
    assert blinks(5.0, 12)[0] == pytest.approx(0.59, abs=0.06)


def test_an_eye_that_is_open_as_noise_shows_it_is_left_to_the_rest_of_the_face():
    assert blinks(10, 12) == [0, 0]
    assert blinks(7.6, 9.2) == [0, 0]
    assert blinks(14, 15) == [0, 0]


def test_an_eye_that_looks_down_does_not_blink():
    assert blinks(5.5, 6.6, [(0, 0.4, 1.0), (1, 0.4, 1.0)]) == [0, 0]
    assert min(blinks(0.5, 0.6, [(0, 0.4, 1.0), (1, 0.4, 1.0)])) > 0.5


def test_what_is_hidden_or_known_otherwise_says_nothing():
    assert blinks(1.0, 1.0, [(0, 0.0, 0.0), (1, 0.0, 0.0)]) == [0, 0]
    assert blinks(1.0, 1.0, []) == [0, 0]
