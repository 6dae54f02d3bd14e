"""Bounded quadratic problems: weights in 0..1 for a frame, and for a whole sequence with smoothness in time."""

import numpy as np
from numba import njit
from numpy.typing import NDArray

from dynaface.core.track.head import Array

OVER = np.float32(1.5)  # over-relaxation of the sequence: a tenth of the error of plain steps after as many sweeps


@njit(cache=True, fastmath=True)
def _cholesky_solve(u, b, m):  # type: ignore[no-untyped-def]
    """Solves the leading (m, m) of a symmetric matrix, given on and below its diagonal, for b in place; u becomes its factor
    with the diagonal's inverse. False when it is not positive definite.
    """
    for i in range(m):
        for j in range(i):
            total = u[i, j]
            for k in range(j):
                total -= u[i, k] * u[j, k]
            u[i, j] = total * u[j, j]
        total = u[i, i]
        for k in range(i):
            total -= u[i, k] * u[i, k]
        if total <= 0.0:
            return False
        u[i, i] = 1.0 / np.sqrt(total)
    for i in range(m):
        total = b[i]
        for k in range(i):
            total -= u[i, k] * b[k]
        b[i] = total * u[i, i]
    for i in range(m - 1, -1, -1):
        b[i] *= u[i, i]
        f = b[i]
        for k in range(i):
            b[k] -= f * u[i, k]
    return True


@njit(cache=True, fastmath=True)
def _pivot(a, b, w, low, high, rounds):  # type: ignore[no-untyped-def]
    n = len(b)
    side = np.zeros(n, np.int8)  # -1 held at low, 1 held at high, 0 free
    for i in range(n):
        if w[i] <= low[i]:
            side[i] = -1
        elif w[i] >= high[i]:
            side[i] = 1
    part, right, held = np.empty((n, n)), np.empty(n), np.empty(n)
    free, bad = np.empty(n, np.int64), np.empty(n, np.bool_)
    fewest, patience = n + 1, 3
    slack = 1e-11 * np.abs(b).max()
    for _ in range(rounds):
        m = 0
        for i in range(n):
            if side[i] == 0:
                free[m] = i
                m += 1
                held[i] = 0.0
            else:
                w[i] = held[i] = low[i] if side[i] < 0 else high[i]
        for p in range(m):
            i = free[p]
            row = a[i]
            total = b[i]
            for j in range(n):
                total -= row[j] * held[j]
            right[p] = total
            for q in range(p + 1):
                part[p, q] = row[free[q]]
        if not _cholesky_solve(part, right, m):
            return False
        for p in range(m):
            w[free[p]] = right[p]
        wrong, last = 0, -1
        for i in range(n):
            bad[i] = _misplaced(a, b, w, low, high, side, i, slack)
            if bad[i]:
                wrong += 1
                last = i
        if wrong == 0:
            return True
        # All that is wrong is exchanged at once while that helps; else one at a time, which cannot go round in circles.
        if wrong < fewest:
            fewest, patience = wrong, 3
        elif patience > 0:
            patience -= 1
        else:
            _exchange(w, low, side, last)
            continue
        for i in range(n):
            if bad[i]:
                _exchange(w, low, side, i)
    return False


@njit(cache=True, fastmath=True)
def _misplaced(a, b, w, low, high, side, i, slack):  # type: ignore[no-untyped-def]
    """Whether a free weight is out of its box, or the slope at a held one points into the box."""
    if side[i] == 0:
        return w[i] < low[i] - 1e-12 or w[i] > high[i] + 1e-12
    if low[i] == high[i]:
        return False
    row, slope = a[i], -b[i]
    for j in range(len(row)):
        slope += row[j] * w[j]
    return slope < -slack if side[i] < 0 else slope > slack


@njit(cache=True, inline="always")
def _exchange(w, low, side, i):  # type: ignore[no-untyped-def]
    if side[i] != 0:
        side[i] = 0
    else:
        side[i] = -1 if w[i] < low[i] else 1


@njit(cache=True)
def _bounded(a, b, w, low, high, rounds):  # type: ignore[no-untyped-def]
    for i in range(len(w)):
        w[i] = min(max(w[i], low[i]), high[i])
    solved = _pivot(a, b, w, low, high, rounds)
    for i in range(len(w)):
        w[i] = min(max(w[i], low[i]), high[i])
    return solved


def solve_bounded(a: Array, b: Array, start: Array, low: Array, high: Array, rounds: int = 300) -> Array:
    """argmin of w'aw/2 - b'w with low <= w <= high, exactly; a (n, n) positive definite, start: a guess, the better the faster.

    Block principal pivoting (Judice and Pires 1994): which weights are held at a bound is exchanged until none is wrong.
    """
    w = start.astype(np.float64)
    if not _bounded(np.ascontiguousarray(a), np.ascontiguousarray(b), w, low, high, rounds):
        raise ArithmeticError("the equations of a frame are not positive definite")
    return w


@njit(cache=True, fastmath=True)
def _sequence(a, b, w, smooth, low, high, sweeps, tolerance):  # type: ignore[no-untyped-def]
    frames, n = b.shape
    two, four = np.float32(2), np.float32(4)
    left = np.empty_like(b)  # b - a w of each frame, kept up to date: most weights rest at a bound and cost nothing
    for f in range(frames):
        left[f] = b[f] - a[f] @ w[f]
    pull, stiff = np.empty(n, np.float32), np.empty(n, np.float32)
    for sweep in range(sweeps):
        worst = np.float32(0)
        for step in range(frames):
            f = step if sweep % 2 == 0 else frames - 1 - step
            # Second differences in time: each frame meets its neighbours with 1, -4, 6, -4, 1.
            pull[:] = left[f]
            stiff[:] = 0
            for m in range(max(f - 1, 1), min(f + 1, frames - 2) + 1):
                c, cc = (two, four) if m == f else (-np.float32(1), np.float32(1))
                for i in range(n):
                    pull[i] += smooth[i] * c * (w[m - 1, i] - two * w[m, i] + w[m + 1, i])
                    stiff[i] += smooth[i] * cc
            for i in range(n):
                diagonal = a[f, i, i] + stiff[i]
                if diagonal <= 0:
                    continue
                change = min(max(w[f, i] + OVER * pull[i] / diagonal, low), high[i]) - w[f, i]
                if change != 0:
                    w[f, i] += change
                    worst = max(worst, abs(change) * diagonal)
                    for j in range(n):
                        part = a[f, i, j] * change
                        left[f, j] -= part
                        pull[j] -= part
                    pull[i] -= stiff[i] * change
        # Optimality, not step size: what is left must not point into the box.
        if worst < tolerance:
            break


def solve_sequence(a: NDArray[np.floating], b: Array, start: Array, smooth: Array, low: float = 0.0, high: float | Array = 1.0,
                   sweeps: int = 60, tolerance: float = 1e-6) -> Array:  # fmt: skip
    """Weights (frames, n) that minimise the sum of w'a[f]w/2 - b[f]'w and smooth[i]/2 times their squared second
    differences in time, within low..high (one for all, or (n,)); a: (frames, n, n), b: (frames, n). Over-relaxed Gauss-Seidel to and fro
    in time from `start`, until no slope is above `tolerance` of the largest b.
    """
    limit = np.broadcast_to(np.asarray(high, np.float32), (b.shape[1],)).copy()
    w = np.clip(start, low, limit).astype(np.float32)
    _sequence(np.ascontiguousarray(a, np.float32), np.ascontiguousarray(b, np.float32), w, smooth.astype(np.float32),
              np.float32(low), limit, sweeps, np.float32(tolerance * float(np.abs(b).max(initial=0))))  # fmt: skip
    return w.astype(np.float64)
