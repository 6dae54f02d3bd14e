"""What samples of expressions make of the general head's shapes at a performer's markers."""

import numpy as np
import pytest

from dynaface.core.markers.basis import MarkerBasis, sampled_basis
from dynaface.core.markers.layout import mean_points, middle_points
from dynaface.core.shapes.standard import SHAPES

JAW, CLOSE, OUT, IN = (SHAPES.index(s) for s in ("jawOpen", "mouthClose", "eyeLookOutLeft", "eyeLookInRight"))
LIPS, CHIN, LEFT, RIGHT = range(4), range(4, 7), range(7, 10), range(10, 13)
MARKERS = 13


def basis(**moves) -> MarkerBasis:
    """Markers on lips, chin and both eyes; moves: shape -> [(markers, millimetres down)]."""
    shapes = np.zeros((len(SHAPES), MARKERS, 3))
    for shape, parts in moves.items():
        for markers, down in parts:
            shapes[SHAPES.index(shape), list(markers), 1] = -down / 1000
    labels = tuple(f"m{i}" for i in range(MARKERS))
    return MarkerBasis(labels, np.zeros((MARKERS, 3)), shapes, (np.eye(3), np.zeros(3)))


def shown(*parts) -> np.ndarray:
    """(markers, 3) of a picture: (markers, millimetres down), summed."""
    out = np.zeros((MARKERS, 3))
    for markers, down in parts:
        out[list(markers), 1] -= down / 1000
    return out


GENERAL = basis(jawOpen=[(LIPS, 8), (CHIN, 16)], mouthClose=[(LIPS, -7)])


@pytest.mark.parametrize("opened", [0.0, 0.6, 1.0])
def test_lips_that_close_over_a_jaw_are_taken_without_the_jaw(opened):
    jaw = shown((LIPS, 10), (CHIN, 20))
    closed = opened * jaw + shown((LIPS, -9))
    made = sampled_basis(GENERAL, {"mouthClose": closed, "jawOpen": jaw})
    assert made.shapes[JAW, list(CHIN), 1] == pytest.approx(-0.020, abs=1e-6)
    assert made.shapes[CLOSE, list(LIPS), 1] == pytest.approx(0.009, abs=1e-3)
    assert np.abs(made.shapes[CLOSE, list(CHIN)]).max() < 2e-3  # the chin is the jaw's


def test_a_marker_that_is_lost_in_the_picture_keeps_what_the_general_head_says():
    closed = shown((LIPS, -9))
    closed[0] = np.nan
    made = sampled_basis(GENERAL, {"mouthClose": closed})
    assert made.shapes[CLOSE, 0].tolist() == GENERAL.shapes[CLOSE, 0].tolist()
    assert np.isfinite(made.shapes).all()


def test_eyes_that_look_one_way_in_one_picture_take_each_its_own():
    general = basis(eyeLookOutLeft=[(LEFT, 3)], eyeLookInRight=[(RIGHT, 3)])
    both = shown((LEFT, 5), (RIGHT, 4))
    made = sampled_basis(general, {"eyeLookOutLeft": both, "eyeLookInRight": both})
    assert made.shapes[OUT, list(LEFT), 1] == pytest.approx(-0.005, abs=1e-5)
    assert made.shapes[IN, list(RIGHT), 1] == pytest.approx(-0.004, abs=1e-5)
    assert np.abs(made.shapes[OUT, list(RIGHT)]).max() < 1e-5
    assert np.abs(made.shapes[IN, list(LEFT)]).max() < 1e-5


def test_a_picture_of_one_shape_is_all_its_own():
    made = sampled_basis(GENERAL, {"jawOpen": shown((LIPS, 10), (CHIN, 20))})
    assert made.shapes[JAW, list(LIPS), 1] == pytest.approx(-0.010, abs=2.5e-3)
    assert made.shapes[JAW, list(CHIN), 1] == pytest.approx(-0.020, abs=1e-6)
    assert made.shapes[CLOSE].tolist() == GENERAL.shapes[CLOSE].tolist()


def test_a_frame_in_which_a_marker_slips_counts_for_nothing():
    points = np.zeros((9, 3, 3))
    points[:, 1] = 0.01
    points[4, 1] = 0.9  # another marker's place
    points[:, 2] = np.nan
    points[0, 2] = np.nan
    middle = middle_points(points, 0, 8)
    assert middle[1] == pytest.approx([0.01] * 3)
    assert np.isnan(middle[2]).all()
    assert mean_points(points, 0, 8)[1, 0] > 0.1
    assert middle_points(points, -5, 1)[1] == pytest.approx([0.01] * 3)
