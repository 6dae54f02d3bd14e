"""Bounded quadratic problems: weights in 0..1 for a frame, and for a whole sequence with smoothness in time."""

import numpy as np
from numba import njit

from dynaface.core.track.head import Array


@njit(cache=True)
def _descend(a, b, w, low, high, sweeps, tolerance):  # type: ignore[no-untyped-def]
    n = len(b)
    left = b - a @ w
    for _ in range(sweeps):
        worst = 0.0
        for i in range(n):
            if a[i, i] <= 0.0:
                continue
            new = min(max(w[i] + left[i] / a[i, i], low[i]), high[i])
            step = new - w[i]
            if step != 0.0:
                for j in range(n):
                    left[j] -= a[j, i] * step
                w[i] = new
                worst = max(worst, abs(step) * a[i, i])
        # Optimality, not step size: what is left must not point into the box.
        if worst < tolerance:
            break


def solve_bounded(a: Array, b: Array, start: Array, low: Array, high: Array, sweeps: int = 200) -> Array:
    """argmin of w'aw/2 - b'w with low <= w <= high, by coordinate descent from `start`; a (n, n) positive definite."""
    w = np.clip(start, low, high).astype(np.float64)
    _descend(
        np.ascontiguousarray(a), np.ascontiguousarray(b), w, low, high, sweeps, 1e-6 * float(np.abs(b).max() + 1e-12)
    )
    return w


@njit(cache=True)
def _sequence(a, b, w, smooth, low, high, sweeps):  # type: ignore[no-untyped-def]
    frames, n = b.shape
    # Second differences in time: each frame meets its neighbours with 1, -4, 6, -4, 1.
    for _ in range(sweeps):
        for f in range(frames):
            for i in range(n):
                pull = b[f, i]
                for j in range(n):
                    pull -= a[f, i, j] * w[f, j]
                own = a[f, i, i]
                s = smooth[i]
                stiff = 0.0
                for d in range(-1, 2):  # second difference about frame f + d
                    m = f + d
                    if m < 1 or m > frames - 2:
                        continue
                    c = -2.0 if d == 0 else 1.0
                    second = w[m - 1, i] - 2.0 * w[m, i] + w[m + 1, i]
                    pull -= s * c * second
                    stiff += s * c * c
                diagonal = own + stiff
                if diagonal > 0.0:
                    w[f, i] = min(max(w[f, i] + pull / diagonal, low), high)


def solve_sequence(a: Array, b: Array, start: Array, smooth: Array, low: float = 0.0, high: float = 1.0, sweeps: int = 60
                   ) -> Array:  # fmt: skip
    """Weights (frames, n) that minimise the sum of w'a[f]w/2 - b[f]'w and smooth[i]/2 times their squared second
    differences in time, within low..high; a: (frames, n, n), b: (frames, n). Block Gauss-Seidel from `start`.
    """
    w = np.clip(start, low, high).astype(np.float64)
    _sequence(np.ascontiguousarray(a), np.ascontiguousarray(b), w, smooth.astype(np.float64), low, high, sweeps)
    return w
