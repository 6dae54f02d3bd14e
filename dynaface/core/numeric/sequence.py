"""Weights of a whole sequence within their bounds, with smoothness in time."""

import numpy as np
from numba import njit
from numpy.typing import NDArray

Array = NDArray[np.float64]


OVER = np.float32(1.5)  # over-relaxation: a tenth of the error of plain steps after as many sweeps


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
