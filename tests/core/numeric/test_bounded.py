"""One frame's bounded problem against SciPy, and by what makes an answer the best one."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.optimize import lsq_linear

from dynaface.core.numeric.bounded import _bounded, solve_bounded
from dynaface.core.numeric.lanes import stamp_of_lanes
from dynaface.core.numeric.plain import solve_bounded_plain


def problem(seed, n=12):
    rng = np.random.default_rng(seed)
    j, y = rng.normal(0, 1, (3 * n, n)), rng.normal(0, 1.5, 3 * n)
    return j, y, j.T @ j, j.T @ y


@given(st.integers(0, 10_000))
def test_a_frame_is_solved_as_scipy_solves_it(seed):
    j, y, a, b = problem(seed)
    found = solve_bounded(a, b, np.full(12, 0.5), np.zeros(12), np.ones(12))
    assert found == pytest.approx(lsq_linear(j, y, (0, 1), method="bvls", tol=1e-15).x, abs=1e-9)


@given(st.integers(0, 10_000), st.integers(2, 70))
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


@pytest.mark.parametrize("n", range(1, 81))
def test_the_compiled_solver_and_its_plain_twin_agree_at_every_size(n):
    for seed in range(4):
        _, _, a, b = problem(1000 * n + seed, n)
        start, low, high = np.full(n, 0.5), np.zeros(n), np.ones(n)
        low[seed % n] = high[seed % n] = 0.25 if seed else 0.0
        found = solve_bounded(a, b, start, low, high)
        np.testing.assert_allclose(found, solve_bounded_plain(a, b, start, low, high), atol=1e-9)


def test_the_plain_twin_refuses_what_the_compiled_one_refuses():
    with pytest.raises(ArithmeticError, match="positive definite"):
        solve_bounded_plain(-np.eye(3), np.ones(3), np.full(3, 0.5), np.zeros(3), np.ones(3))


def test_what_numba_keeps_is_kept_by_the_lanes_too():
    assert stamp_of_lanes() > 0
    cells = [cell.cell_contents for cell in _bounded.py_func.__closure__]
    assert stamp_of_lanes() in cells
