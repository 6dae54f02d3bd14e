"""A bounded quadratic problem: the weights of one frame, exactly."""

from collections.abc import Callable

import numpy as np
from numba import njit
from numpy.typing import NDArray

from dynaface.core.numeric.lanes import WIDTH, load, minus, plus_product, stamp_of_lanes, store, times, total, zeros

Array = NDArray[np.float64]

BLOCK = 2 * WIDTH  # columns of a factor that are worked on together
SWEEPS = 3  # more cost more than they spare


@njit(fastmath=True, error_model="numpy")
def _factor(u, reciprocal, m, wide):  # type: ignore[no-untyped-def]
    """m rows of a symmetric matrix, given on and right of its diagonal with a right-hand side as column m, become D U of its U'DU,
    beside the right-hand side solved by U'; u: flat, `wide` numbers a row; reciprocal: 1 / D. False when it is not positive definite.
    """
    for i in range(m):
        at = i * wide
        for j in range(i // BLOCK * BLOCK, m + 1, BLOCK):
            x, y = load(u, at + j), load(u, at + j + WIDTH)
            for k in range(i):
                above = k * wide
                part = u[above + i] * reciprocal[k]
                x = minus(x, times(load(u, above + j), part))
                y = minus(y, times(load(u, above + j + WIDTH), part))
            store(u, at + j, x)
            store(u, at + j + WIDTH, y)
        if u[at + i] <= 0.0:
            return False
        reciprocal[i] = 1.0 / u[at + i]
    return True


@njit(fastmath=True, error_model="numpy")
def _solved(u, reciprocal, x, m, wide):  # type: ignore[no-untyped-def]
    """x (wide,) becomes what the factor with its half-solved right-hand side solves to."""
    x[:] = 0.0
    for i in range(m - 1, -1, -1):
        sums = zeros()
        for j in range(i // WIDTH * WIDTH, m, WIDTH):
            sums = plus_product(sums, load(u, i * wide + j), load(x, j))
        x[i] = (u[i * wide + m] - total(sums)) * reciprocal[i]


@njit(fastmath=True, error_model="numpy")
def _sorted_out(side, free, moved):  # type: ignore[no-untyped-def]
    """free becomes the m that are free, each at its own place as far as can be, moved the places that hold another; (m, how many)."""
    m = 0
    for i in range(len(side)):
        if side[i] == 0:
            m += 1
    last, count = len(side) - 1, 0
    for p in range(m):
        free[p] = p
        if side[p] != 0:
            while side[last] != 0:
                last -= 1
            free[p] = last
            last -= 1
            moved[count] = p
            count += 1
    return m, count


@njit(fastmath=True, error_model="numpy")
def _gathered(a, left, free, m, moved, count, part, wide):  # type: ignore[no-untyped-def]
    """part becomes the rows and columns of a that are free, with their part of `left` as column m; a: flat. What stands left of a
    diagonal or right of column m counts for nothing.
    """
    n = len(left)
    for p in range(m):
        i, at = free[p], p * wide
        for j in range(p // BLOCK * BLOCK, m, WIDTH):
            if i * n + j + WIDTH <= n * n:  # not past the end of a
                store(part, at + j, load(a, i * n + j))
            else:
                store(part, at + j, zeros())
                for q in range(j, n):
                    part[at + q] = a[i * n + q]
    for number in range(count):
        q = moved[number]
        for p in range(q + 1):
            part[p * wide + q] = a[free[q] * n + free[p]]
    for p in range(m):
        part[p * wide + m] = left[free[p]]


@njit(fastmath=True, error_model="numpy")
def _slopes(flat, b, w, left):  # type: ignore[no-untyped-def]
    """left becomes b - a w; flat: the rows of a, one after the other."""
    n = len(b)
    whole = n // WIDTH * WIDTH
    for i in range(n):
        sums, rest = zeros(), b[i]
        for j in range(0, whole, WIDTH):
            sums = plus_product(sums, load(flat, i * n + j), load(w, j))
        for j in range(whole, n):
            rest -= flat[i * n + j] * w[j]
        left[i] = rest - total(sums)


@njit(fastmath=True, error_model="numpy")
def _swept(a, b, w, low, high, left):  # type: ignore[no-untyped-def]
    """SWEEPS of coordinate descent from w, in place, with left = b - a w: they find most of what will be held at a bound."""
    _slopes(a.reshape(-1), b, w, left)
    reciprocal = np.empty(len(b))
    for i in range(len(b)):
        reciprocal[i] = 1.0 / a[i, i] if a[i, i] > 0.0 else 0.0
    for _ in range(SWEEPS):
        for i in range(len(b)):
            change = min(max(w[i] + left[i] * reciprocal[i], low[i]), high[i]) - w[i]
            if change != 0.0:
                w[i] += change
                for j in range(len(b)):
                    left[j] -= change * a[i, j]


@njit(fastmath=True, error_model="numpy")
def _pivot(a, b, w, low, high, rounds):  # type: ignore[no-untyped-def]
    n = len(b)
    flat, left = a.reshape(-1), np.empty(n)
    _swept(a, b, w, low, high, left)
    side = np.zeros(n, np.int8)  # -1 held at low, 1 held at high, 0 free
    slack = 0.0
    for i in range(n):
        side[i] = -1 if w[i] <= low[i] else 1 if w[i] >= high[i] else 0
        slack = max(slack, 1e-11 * abs(b[i]))
    wide = (n // BLOCK + 1) * BLOCK
    part, reciprocal, step = np.empty(n * wide), np.empty(n), np.empty(wide)
    change = np.empty(n)
    free, moved, bad = np.empty(n, np.int64), np.empty(n, np.int64), np.empty(n, np.bool_)
    fewest, patience = n + 1, 3
    for number in range(rounds):
        m, count = _sorted_out(side, free, moved)
        for i in range(n):
            if side[i] != 0:
                w[i] = low[i] if side[i] < 0 else high[i]
        if number:
            _slopes(flat, b, w, left)
        _gathered(flat, left, free, m, moved, count, part, wide)
        if not _factor(part, reciprocal, m, wide):
            return False
        _solved(part, reciprocal, step, m, wide)
        change[:] = 0.0
        for p in range(m):
            change[free[p]] = step[p]
            w[free[p]] += step[p]
        wrong, last = 0, -1
        for i in range(n):
            if side[i] == 0:
                bad[i] = w[i] < low[i] - 1e-12 or w[i] > high[i] + 1e-12
            elif low[i] == high[i]:
                bad[i] = False
            else:  # the slope at a held weight must not point into the box
                pull = left[i]
                for j in range(n):
                    pull -= a[i, j] * change[j]
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


def _entry(stamp: int) -> Callable[..., Array]:
    """The compiled solver. Numba keeps it by this file and by what it closes over: `stamp` says which lanes are in it, which
    Numba does not see. The functions that it calls are compiled into it and not kept apart.
    """

    @njit(cache=True, error_model="numpy")
    def bounded(a, b, start, low, high, rounds):  # type: ignore[no-untyped-def]
        w = np.empty(len(start))
        for i in range(len(w)):
            w[i] = min(max(start[i], low[i]), high[i])
        if stamp < 0 or not _pivot(a, b, w, low, high, rounds):
            raise ArithmeticError("the equations of a frame are not positive definite")
        for i in range(len(w)):
            w[i] = min(max(w[i], low[i]), high[i])
        return w

    return bounded


_bounded = _entry(stamp_of_lanes())


def solve_bounded(a: Array, b: Array, start: Array, low: Array, high: Array, rounds: int = 300) -> Array:
    """argmin of w'aw/2 - b'w with low <= w <= high, exactly; a (n, n) symmetric and positive definite, else ArithmeticError; start: a
    guess, the better the faster.

    Block principal pivoting (Judice and Pires 1994): which weights are held at a bound is exchanged until none is wrong, beginning
    with those that a few sweeps of coordinate descent hold.
    """
    solved: Array = _bounded(np.ascontiguousarray(a, np.float64), b, start, low, high, rounds)
    return solved
