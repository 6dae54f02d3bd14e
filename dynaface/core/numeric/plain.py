"""The plain twin of `bounded`: the same answer in NumPy alone, slowly; what the compiled one is held to."""

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]


def solve_bounded_plain(a: Array, b: Array, start: Array, low: Array, high: Array, rounds: int = 300) -> Array:
    """argmin of w'aw/2 - b'w with low <= w <= high as `solve_bounded` gives it; raises ArithmeticError like it.

    Block principal pivoting (Judice and Pires 1994): what is wrong is exchanged all at once while that helps, else the last one.
    """
    w = np.clip(start, low, high).astype(np.float64)
    side = np.where(w <= low, -1, np.where(w >= high, 1, 0))
    slack = 1e-11 * np.abs(b).max(initial=0.0)
    fewest, patience = len(b) + 1, 3
    for _ in range(rounds):
        free = side == 0
        w = np.where(side < 0, low, np.where(side > 0, high, 0.0))
        if free.any():
            inner = a[np.ix_(free, free)]
            if np.linalg.eigvalsh(inner)[0] <= 0:
                raise ArithmeticError("the equations of a frame are not positive definite")
            w[free] = np.linalg.solve(inner, b[free] - a[np.ix_(free, ~free)] @ w[~free])
        pull = b - a @ w
        outside = free & ((w < low - 1e-12) | (w > high + 1e-12))
        inward = ((side < 0) & (pull > slack)) | ((side > 0) & (pull < -slack))
        wrong = np.flatnonzero(outside | (inward & (low != high)))
        if not len(wrong):
            return np.clip(w, low, high)
        if len(wrong) < fewest:
            fewest, patience = len(wrong), 3
        elif patience:
            patience -= 1
        else:
            wrong = wrong[-1:]
        side[wrong] = np.where(side[wrong] != 0, 0, np.where(w[wrong] < low[wrong], -1, 1))
    raise ArithmeticError("the equations of a frame are not positive definite")
