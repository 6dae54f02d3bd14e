"""A sequence against its frames, and what smoothness does in time."""

import numpy as np
import pytest

from dynaface.core.numeric.bounded import solve_bounded
from dynaface.core.numeric.sequence import solve_sequence
from tests.core.numeric.test_bounded import problem


def test_without_smoothness_a_sequence_is_its_frames():
    made = [problem(s) for s in range(8)]
    a, b = np.array([m[2] for m in made]), np.array([m[3] for m in made])
    together = solve_sequence(a, b, np.full((8, 12), 0.5), np.zeros(12), sweeps=3000)
    alone = [solve_bounded(x, y, np.zeros(12), np.zeros(12), np.ones(12)) for x, y in zip(a, b, strict=True)]
    assert together == pytest.approx(np.array(alone), abs=1e-5)


def test_smoothness_takes_jitter_and_leaves_a_straight_rise():
    rng = np.random.default_rng(1)
    rise = np.linspace(0.1, 0.9, 60)[:, None]
    a = np.tile(np.eye(1) * 100, (60, 1, 1))
    noisy = rise + rng.normal(0, 0.05, rise.shape)
    smooth = solve_sequence(a, 100 * noisy, noisy, np.array([5000.0]), sweeps=3000)
    assert np.abs(smooth - rise).mean() < 0.5 * np.abs(noisy - rise).mean()
    assert solve_sequence(a, 100 * rise, rise, np.array([5000.0]), sweeps=500) == pytest.approx(rise, abs=1e-6)


def test_a_lost_frame_is_bridged_by_its_neighbours():
    a = np.tile(np.eye(1) * 100, (9, 1, 1))
    b = np.full((9, 1), 60.0)
    a[4], b[4] = 1e-3, 0
    assert solve_sequence(a, b, np.zeros((9, 1)), np.array([1000.0]), sweeps=3000)[4, 0] == pytest.approx(0.6, abs=0.02)
