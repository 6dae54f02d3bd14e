"""Meshes where they are in a frame."""

import numpy as np
import pytest

from dynaface.core.picture.draw import Paint
from dynaface.core.picture.model import Mesh, Skin, smooth_normals

LOOK = Paint(np.ones(3, np.float32))
POINTS = np.array([[0, 0, 0], [1, 0, 0], [1, 1, 0], [0, 1, 0.0]])
FACES = np.array([[0, 1, 2], [0, 2, 3]])
UP = np.tile([0, 0, 1.0], (4, 1))


def mesh(**more):
    return Mesh("plate", POINTS, UP, np.zeros((4, 2)), FACES, ((0, 2, LOOK),), {"up": np.tile([0, 0, 0.5], (4, 1)),
                "tilt": np.array([[0, 0, 0], [0, 0, 1.0], [0, 0, 1.0], [0, 0, 0]])}, **more)  # fmt: skip


def test_at_rest_it_is_as_the_file_has_it():
    points, normals = mesh().posed({}, None)
    np.testing.assert_array_equal(points, POINTS)
    np.testing.assert_array_equal(normals, UP)


def test_targets_move_it_by_their_weights_and_turn_its_normals():
    points, normals = mesh().posed({"up": 0.5, "tilt": 1.0}, None)
    np.testing.assert_allclose(points[:, 2], [0.25, 1.25, 1.25, 0.25])
    np.testing.assert_allclose(normals, np.tile([-np.sqrt(0.5), 0, np.sqrt(0.5)], (4, 1)), atol=1e-12)


def test_joints_carry_vertices_by_their_weights():
    joints = np.array([[0, 1, 0, 0]] * 4)
    weights = np.array([[1, 0, 0, 0], [0, 1, 0, 0], [0.5, 0.5, 0, 0], [1, 0, 0, 0.0]])
    carried = np.tile(np.eye(4), (2, 1, 1))
    carried[1, :3, 3] = [0, 2, 0]
    points, _ = mesh(skin=Skin(joints, weights, np.eye(4))).posed({}, carried)
    np.testing.assert_allclose(points[:, 1], [0, 2, 2, 1])


def test_vertices_that_a_picture_splits_share_their_normal():
    points = np.array([[0, 0, 0], [1, 0, 0], [1, 1, 0], [1, 0, 0], [1, 0, -1], [1, 1, 0.0]])
    faces = np.array([[0, 1, 2], [3, 4, 5]])
    welds = np.unique(points, axis=0, return_inverse=True)[1].reshape(-1)
    normals = smooth_normals(points, faces, welds)
    np.testing.assert_allclose(normals[1], normals[3])
    assert np.linalg.norm(normals, axis=1) == pytest.approx(np.ones(6))
