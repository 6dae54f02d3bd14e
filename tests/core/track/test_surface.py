"""Which point of a surface is seen in each pixel."""

import numpy as np
import pytest

from dynaface.core.track.surface import surface_at

SQUARE = np.array([[2.0, 2], [12, 2], [12, 12], [2, 12]])
FACES = np.array([[0, 3, 2], [0, 2, 1]], np.int32)  # toward the camera, y down


def test_weights_give_the_place_of_each_pixel_back():
    number, weights = surface_at(SQUARE, np.zeros(4), FACES, (16, 16))
    rows, columns = np.nonzero(number >= 0)
    places = (SQUARE[FACES[number[rows, columns]]] * weights[rows, columns][..., None]).sum(axis=1)
    assert places == pytest.approx(np.stack([columns, rows], axis=1))
    assert weights[rows, columns].sum(axis=1) == pytest.approx(1)


def test_beside_it_there_is_nothing():
    number, _ = surface_at(SQUARE, np.zeros(4), FACES, (16, 16))
    assert (number[:2] == -1).all()
    assert (number[3:12, 3:12] >= 0).all()


def test_the_nearer_of_two_is_seen():
    screen, near = np.vstack([SQUARE, SQUARE]), np.r_[np.zeros(4), np.ones(4)]
    both = np.vstack([FACES, FACES + 4]).astype(np.int32)
    number, _ = surface_at(screen, near, both, (16, 16))
    assert (number[3:12, 3:12] >= 2).all()


def test_what_faces_away_is_not_seen():
    number, _ = surface_at(SQUARE, np.zeros(4), FACES[:, ::-1].copy(), (16, 16))
    assert (number == -1).all()


def test_a_surface_beyond_the_picture_is_cut_at_its_edge():
    number, _ = surface_at(SQUARE * 10 - 50, np.zeros(4), FACES, (16, 16))
    assert (number >= 0).all()
