"""Bounded problems against SciPy, and a sequence against its frames."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.optimize import lsq_linear

from dynaface.core.shapes.standard import SHAPES
from dynaface.core.solve.bounded import solve_bounded, solve_sequence
from dynaface.core.solve.priors import fewer, prior, smoothness, sparseness


def problem(seed, n=12):
    rng = np.random.default_rng(seed)
    j, y = rng.normal(0, 1, (3 * n, n)), rng.normal(0, 1.5, 3 * n)
    return j, y, j.T @ j, j.T @ y


@given(st.integers(0, 10_000))
def test_a_frame_is_solved_as_scipy_solves_it(seed):
    j, y, a, b = problem(seed)
    found = solve_bounded(a, b, np.full(12, 0.5), np.zeros(12), np.ones(12))
    assert found == pytest.approx(lsq_linear(j, y, (0, 1), method="bvls", tol=1e-15).x, abs=1e-9)


@given(st.integers(0, 10_000), st.sampled_from([52, 30]))
def test_at_the_optimum_no_slope_points_into_the_box(seed, n):
    rng = np.random.default_rng(seed)
    basis = rng.normal(0, 1, (2 * n, n))
    basis[:, 1] = basis[:, 0] + 0.05 * basis[:, 1]  # two shapes that look nearly the same
    a, b = basis.T @ basis + np.eye(n), basis.T @ rng.normal(0.5, 2, 2 * n)
    found = solve_bounded(a, b, rng.random(n), np.zeros(n), np.ones(n))
    slope, slack = a @ found - b, 1e-8 * np.abs(b).max()
    assert np.abs(slope[(found > 0) & (found < 1)]).max(initial=0) < slack
    assert (slope[found == 0] > -slack).all()
    assert (slope[found == 1] < slack).all()


def test_where_it_begins_does_not_matter():
    _, _, a, b = problem(7)
    starts = [np.zeros(12), np.ones(12), np.full(12, 0.5), np.linspace(-3, 3, 12)]
    found = [solve_bounded(a, b, s, np.zeros(12), np.ones(12)) for s in starts]
    for other in found[1:]:
        np.testing.assert_allclose(found[0], other, atol=1e-12)


def test_equations_without_one_answer_are_told():
    with pytest.raises(ArithmeticError, match="positive definite"):
        solve_bounded(-np.eye(3), np.ones(3), np.full(3, 0.5), np.zeros(3), np.ones(3))


def test_a_shape_that_is_switched_off_stays_at_zero():
    _, _, a, b = problem(3)
    high = np.ones(12)
    high[4] = 0
    assert solve_bounded(a, b, np.full(12, 0.5), np.zeros(12), high)[4] == 0


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


def test_the_prior_is_positive_and_knows_left_from_right():
    a = prior().a
    assert np.linalg.eigvalsh(a).min() > 0
    one, other = SHAPES.index("mouthSmileLeft"), SHAPES.index("mouthSmileRight")
    assert a[one, other] < 0
    assert a[SHAPES.index("jawLeft"), SHAPES.index("jawRight")] == 0
    assert a[SHAPES.index("eyeLookOutLeft"), SHAPES.index("eyeLookInRight")] < 0


def test_gaze_and_blinks_are_not_held_back():
    held = sparseness(np.eye(len(SHAPES)) * 1000)
    assert held[SHAPES.index("eyeBlinkLeft")] == 0
    assert held[SHAPES.index("eyeLookUpLeft")] == 0
    assert held[SHAPES.index("jawOpen")] > 0
    assert smoothness()[SHAPES.index("eyeBlinkLeft")] < smoothness()[SHAPES.index("jawOpen")]


def test_what_hardly_shows_about_a_moment_is_held_back_more_and_what_shows_less():
    a = np.tile(np.eye(len(SHAPES)) * 1e4, (60, 1, 1))
    weights = np.zeros((60, len(SHAPES)))
    jaw, smile = SHAPES.index("jawOpen"), SHAPES.index("mouthSmileLeft")
    weights[30, jaw] = 0.8
    more = fewer(a, weights, 30.0)
    assert (more[:, smile] > 0).all()
    assert more[30, jaw] < 0
    assert more[26, jaw] == more[30, jaw]  # half a second about it
    assert more[5, jaw] == more[5, smile] > 0
    assert not more[:, SHAPES.index("eyeBlinkLeft")].any()
    assert (more >= -sparseness(a)).all()  # never a reward
