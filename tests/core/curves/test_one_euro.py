"""The one-euro filter on whole takes and on frames as they come."""

import numpy as np
import pytest

from dynaface.core.curves.one_euro import Follower, both_ways

RATE = 60
SCALE = np.ones(2, np.float32)


def followed(values, amounts, seconds=1 / RATE):
    follower = Follower(np.asarray(amounts, np.float32), SCALE)
    return np.stack([follower.follow(row, seconds) for row in values])


@pytest.fixture
def noisy():
    rng = np.random.default_rng(3)
    clean = np.stack([np.full(400, 0.4), 0.5 + 0.4 * np.sin(np.arange(400) / RATE * 6)], axis=1)
    return (clean + rng.normal(0, 0.02, clean.shape)).astype(np.float32), clean


def test_frames_as_they_come_are_the_forward_half_of_the_whole(noisy):
    values, _ = noisy
    amounts = np.array([0.3, 0.6], np.float32)
    forward = followed(values, amounts)
    backward = followed(values[::-1], amounts)[::-1]
    assert np.allclose((forward + backward) / 2, both_ways(values, amounts, SCALE, RATE), atol=1e-4)


def test_stillness_gets_calm_and_motion_stays(noisy):
    values, clean = noisy
    made = followed(values, [0.5, 0.2])
    assert made[100:, 0].std() < 0.4 * values[100:, 0].std()
    assert np.abs(made[100:, 1] - clean[100:, 1]).mean() < 0.05


def test_amount_of_nothing_shows_values_as_they_come(noisy):
    values, _ = noisy
    assert np.array_equal(followed(values, [0, 0]), values)


def test_after_a_gap_it_begins_anew(noisy):
    values = noisy[0].copy()
    values[50:60, 0] = np.nan
    values[60:, 0] = 0.9
    made = followed(values, [0.9, 0.9])
    assert np.isnan(made[50:60, 0]).all()
    assert made[60, 0] == pytest.approx(0.9)


def test_frames_that_come_seldom_are_smoothed_less():
    step = np.zeros((2, 2), np.float32)
    step[1] = 1
    seldom, often = followed(step, [0.9, 0.9], 0.5)[1, 0], followed(step, [0.9, 0.9], 1 / 240)[1, 0]
    assert often < seldom < 1
