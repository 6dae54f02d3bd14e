"""The inverse behind dragging a place of the face."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from dynaface.core.layers.grab import grab

FREE = (-10.0, 10.0)
METRE = st.floats(-0.008, 0.008)


def rig(seed, channels=30):
    rng = np.random.default_rng(seed)
    moves = rng.normal(0, 0.01, (channels, 2))
    most = np.linalg.norm(moves, axis=1) * rng.uniform(1, 3, channels)
    return moves, most, most * rng.uniform(0.05, 0.3, channels)


@given(st.integers(1, 200), METRE, METRE)
def test_the_place_comes_to_the_pointer_where_the_limits_allow(seed, x, y):
    moves, most, spread = rig(seed)
    found = grab(moves, most, spread, np.zeros(30), (x, y), *FREE)
    assert np.linalg.norm(found @ moves - [x, y]) < 0.0005


@given(st.integers(1, 200), METRE, METRE)
def test_limits_are_kept(seed, x, y):
    moves, most, spread = rig(seed)
    now = np.random.default_rng(seed).random(30)
    after = now + grab(moves, most, spread, now, (20 * x, 20 * y), 0.0, 1.0)
    assert ((after >= -1e-9) & (after <= 1 + 1e-9)).all()


def test_a_channel_that_moves_little_else_goes_before_one_that_moves_the_whole_face():
    moves = np.array([[0.0, -0.005], [0.0, -0.02]])
    found = grab(moves, np.array([0.006, 0.02]), np.array([0.0004, 0.008]), np.zeros(2), (0, -0.003), 0.0, 1.0)
    assert found[0] == pytest.approx(0.6, abs=0.05)
    assert found[1] < 0.02


def test_few_channels_are_changed_where_few_are_enough():
    rng = np.random.default_rng(4)
    moves = np.concatenate([[[0.0, -0.01]], rng.normal(0, 0.002, (20, 2))])
    most = np.linalg.norm(moves, axis=1) * 1.2
    spread = np.concatenate([[0.0005], np.full(20, 0.001)])
    found = grab(moves, most, spread, np.zeros(21), (0, -0.004), 0.0, 1.0)
    assert np.count_nonzero(found) <= 4
    assert found[0] > 0.3


def test_what_hardly_moves_the_place_is_left_alone():
    moves = np.array([[0.0, -0.01], [0.0, -0.0005]])
    found = grab(moves, np.array([0.01, 0.05]), np.array([0.001, 0.001]), np.zeros(2), (0, -0.05), 0.0, 1.0)
    assert found[0] == pytest.approx(1)
    assert found[1] == 0


def test_a_value_beyond_its_limit_is_only_brought_back():
    most = np.array([0.01])
    found = grab(np.array([[0.0, -0.01]]), most, most / 9, np.array([1.3]), (0, -0.01), 0.0, 1.0)
    assert found[0] <= 1e-9


def test_where_nothing_moves_nothing_changes():
    most = np.full(5, 0.01)
    assert not grab(np.zeros((5, 2)), most, most, np.zeros(5), (0.01, 0), *FREE).any()
