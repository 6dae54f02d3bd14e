"""The arc of an opening jaw against a true turn, and what a face's model makes of it."""

import numpy as np
import pytest

from dynaface.core.shapes.standard import SHAPES
from dynaface.core.solve.jaw import JAW, JOINTS, beside_seam, bulge
from dynaface.formats.head_file import landmark_places

HINGE = np.array([0.0, -0.015, -0.06])


def turned(points, radians):
    """Points turned down about the axis from side to side."""
    x, y, z = (points - HINGE).T
    c, s = np.cos(radians), np.sin(radians)
    return np.stack([x, c * y - s * z, s * y + c * z], axis=1) + HINGE


@pytest.mark.parametrize("radians", [0.1, 0.25, 0.4])
@pytest.mark.parametrize("weight", [0.2, 0.5, 0.8])
def test_a_turn_is_followed_to_a_quarter_of_what_its_chord_is_off(radians, weight):
    points = HINGE + np.random.default_rng(1).uniform([-0.04, -0.12, 0.04], [0.04, -0.04, 0.12], (200, 3))
    opened = turned(points, radians) - points
    truth = turned(points, weight * radians) - points
    chord = np.abs(truth - weight * opened).max()
    arc = np.abs(truth - weight * opened - weight * (1 - weight) * bulge(points, opened, HINGE)).max()
    assert arc < 0.25 * chord


def test_what_does_not_hang_on_the_jaw_goes_straight():
    points = HINGE + np.array([[0.0, -0.08, 0.1], [0.0, 0.05, 0.1]])
    opened = np.array([turned(points, 0.3)[0] - points[0], np.zeros(3)])
    assert bulge(points, opened, HINGE)[1] == pytest.approx(0)
    assert not bulge(points, np.zeros((2, 3)), HINGE).any()


def test_shut_and_wide_open_are_as_the_shape_says(model):
    for weight in (0.0, 1.0):
        weights = np.where(np.arange(len(SHAPES)) == JAW, weight, 0.0)
        np.testing.assert_allclose(model.measured(weights), model.at + model.by @ weights)
        np.testing.assert_allclose(model.posed(weights), model.points + weight * model.shapes[JAW])


def test_slopes_are_what_measured_points_change_by(model):
    weights = np.random.default_rng(2).uniform(0, 1, len(SHAPES))
    slopes = model.slopes(weights)
    for shape in (JAW, SHAPES.index("mouthSmileLeft")):
        step = np.where(np.arange(len(SHAPES)) == shape, 1e-5, 0.0)
        change = (model.measured(weights + step) - model.measured(weights - step)) / 2e-5
        np.testing.assert_allclose(slopes[..., shape], change, atol=1e-9)


def test_a_half_open_jaw_is_farther_from_its_hinge_than_its_chord(model):
    weights = np.where(np.arange(len(SHAPES)) == JAW, 0.5, 0.0)
    hinge = landmark_places().on(model.points)[list(JOINTS)].mean(axis=0)
    far = np.linalg.norm((model.measured(weights) - hinge)[:, 1:], axis=1)
    chord = np.linalg.norm((model.at + model.by @ weights - hinge)[:, 1:], axis=1)
    assert (far >= chord - 1e-12).all()
    assert (far - chord).max() > 0.0005


def test_only_points_at_the_lips_lie_beside_their_seam(model):
    seam = beside_seam(model.at, model.by[..., JAW])
    assert seam.sum() > 60
    x, y, _ = model.at[seam].T
    assert np.abs(x).max() < 0.035
    assert y.max() < -0.05
    assert y.min() > -0.1


def test_skin_that_moves_as_one_has_no_seam():
    points = np.random.default_rng(2).uniform(-0.03, 0.03, (100, 3))
    assert not beside_seam(points, np.tile([0.0, -0.03, 0.0], (100, 1))).any()
    assert not beside_seam(points, np.zeros((100, 3))).any()
