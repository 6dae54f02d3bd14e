"""Where a camera sees places."""

import numpy as np
import pytest

from dynaface.core.picture.camera import Camera, framing

AHEAD = Camera(np.array([0.0, 1.5, 2.0]), np.array([0.0, 1.5, 0.0]), 40.0, (200, 100))


def test_what_it_looks_at_is_in_the_middle():
    np.testing.assert_allclose(AHEAD.sees(np.array([[0, 1.5, 0.0]]))[0], [100, 50, 0.5])


def test_left_and_up_of_it_are_left_and_up():
    left, up = AHEAD.sees(np.array([[-0.3, 1.5, 0], [0, 1.7, 0.0]]))
    assert (left[0] < 100, left[1]) == (True, pytest.approx(50))
    assert (up[1] < 50, up[0]) == (True, pytest.approx(100))


def test_the_upper_edge_is_where_the_lens_says():
    height = 2 * np.tan(np.radians(20))
    assert AHEAD.sees(np.array([[0, 1.5 + height, 0.0]]))[0, 1] == pytest.approx(0, abs=1e-9)


def test_what_is_behind_is_not_seen():
    assert AHEAD.sees(np.array([[0, 1.5, 2.5], [0, 1.5, 1.99]]))[:, 2].tolist() == [0, 0]


@pytest.mark.parametrize("turn", [0, 40, -120])
def test_framing_shows_all_that_was_asked_for(turn):
    seen = framing(np.array([1.0, 1.6, 0.5]), 0.4, 0.3, 26, (1280, 720), turn)
    edge = seen.sees(np.array([[1.0, 1.8, 0.5], [1.0, 1.4, 0.5]]))
    assert edge[:, 1] == pytest.approx([0, 720])
    wide = framing(np.array([0.0, 0.0, 0.0]), 0.1, 2.0, 26, (1280, 720))
    assert wide.sees(np.array([[-1.0, 0, 0], [1.0, 0, 0]]))[:, 0] == pytest.approx([0, 1280])
