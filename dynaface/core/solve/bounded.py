"""Bounded quadratic problems: weights in 0..1 for a frame, and for a whole sequence with smoothness in time."""

import numpy as np
from numba import njit
from numpy.typing import NDArray

from dynaface.core.track.head import Array

SWEEPS = 3
OVER = np.float32(1.5)  # over-relaxation of the sequence: a tenth of the error of plain steps after as many sweeps


@njit(cache=True, fastmath=True)
def _cholesky(u, over, m):  # type: ignore[no-untyped-def]
    """The leading (m, m) of a symmetric matrix, given on and right of its diagonal, becomes its upper factor; over: one over the
    factor's diagonal. False when it is not positive definite.
    """
    for i in range(m):
        k = 0
        while k + 4 <= i:  # four rows above at once: the row itself is read and written a quarter as often
            p, q, r, s = u[k, i], u[k + 1, i], u[k + 2, i], u[k + 3, i]
            for j in range(i, m):
                u[i, j] -= p * u[k, j] + q * u[k + 1, j] + r * u[k + 2, j] + s * u[k + 3, j]
            k += 4
        while k < i:
            p = u[k, i]
            for j in range(i, m):
                u[i, j] -= p * u[k, j]
            k += 1
        if u[i, i] <= 0.0:
            return False
        over[i] = 1.0 / np.sqrt(u[i, i])
        for j in range(i, m):
            u[i, j] *= over[i]
    return True


@njit(cache=True, fastmath=True)
def _solved(u, over, x, m):  # type: ignore[no-untyped-def]
    """x (m,) solved in place with a factor."""
    for i in range(m):
        x[i] *= over[i]
        f = x[i]
        for j in range(i + 1, m):
            x[j] -= f * u[i, j]
    for i in range(m - 1, -1, -1):
        total = x[i]
        for j in range(i + 1, m):
            total -= u[i, j] * x[j]
        x[i] = total * over[i]


@njit(cache=True, fastmath=True)
def _slopes(a, b, w, left):  # type: ignore[no-untyped-def]
    """left becomes b - a w."""
    for i in range(len(b)):
        total = b[i]
        for j in range(len(b)):
            total -= a[i, j] * w[j]
        left[i] = total


@njit(cache=True, fastmath=True)
def _swept(a, b, w, low, high, left):  # type: ignore[no-untyped-def]
    """SWEEPS of coordinate descent from w, in place, with left = b - a w: they find most of what will be held at a bound."""
    _slopes(a, b, w, left)
    for _ in range(SWEEPS):
        for i in range(len(b)):
            if a[i, i] <= 0.0:
                continue
            change = min(max(w[i] + left[i] / a[i, i], low[i]), high[i]) - w[i]
            if change != 0.0:
                w[i] += change
                for j in range(len(b)):
                    left[j] -= change * a[i, j]


@njit(cache=True, fastmath=True)
def _pivot(a, b, w, low, high, rounds):  # type: ignore[no-untyped-def]
    n = len(b)
    left = np.empty(n)
    _swept(a, b, w, low, high, left)
    side = np.zeros(n, np.int8)  # -1 held at low, 1 held at high, 0 free
    slack = 0.0
    for i in range(n):
        side[i] = -1 if w[i] <= low[i] else 1 if w[i] >= high[i] else 0
        slack = max(slack, 1e-11 * abs(b[i]))
    part, over, step = np.empty((n, n)), np.empty(n), np.empty(n)
    free, bad = np.empty(n, np.int64), np.empty(n, np.bool_)
    fewest, patience = n + 1, 3
    for number in range(rounds):
        m = 0
        for i in range(n):
            if side[i] == 0:
                free[m] = i
                m += 1
            else:
                w[i] = low[i] if side[i] < 0 else high[i]
        if number:
            _slopes(a, b, w, left)
        for p in range(m):
            i = free[p]
            step[p] = left[i]
            for q in range(p, m):
                part[p, q] = a[i, free[q]]
        if not _cholesky(part, over, m):
            return False
        _solved(part, over, step, m)
        for p in range(m):
            w[free[p]] += step[p]
        wrong, last = 0, -1
        for i in range(n):
            if side[i] == 0:
                bad[i] = w[i] < low[i] - 1e-12 or w[i] > high[i] + 1e-12
            elif low[i] == high[i]:
                bad[i] = False
            else:  # the slope at a held weight must not point into the box
                pull = left[i]
                for p in range(m):
                    pull -= a[i, free[p]] * step[p]
                bad[i] = pull > slack if side[i] < 0 else pull < -slack
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
            for i in range(last):
                bad[i] = False
        for i in range(n):
            if bad[i]:
                side[i] = 0 if side[i] != 0 else -1 if w[i] < low[i] else 1
    return False


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

    Block principal pivoting (Judice and Pires 1994): which weights are held at a bound is exchanged until none is wrong, beginning
    with those that a few sweeps of coordinate descent hold.
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
