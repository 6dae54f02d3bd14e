"""Frames that are enough: what lies between them follows from straight lines within a tolerance."""

import numpy as np
from numpy.typing import NDArray

Ints = NDArray[np.intp]


def few_keys(values: NDArray[np.floating], tolerance: float) -> Ints:
    """Frames (ascending, the first and the last among them) between which straight lines keep all values (frames, ...) within the tolerance.

    Ramer 1972, Douglas & Peucker 1973: the farthest value becomes a key until none lies farther off. 0 keeps every frame.
    """
    count = len(values)
    if tolerance <= 0 or count < 3:
        return np.arange(count)
    flat = np.asarray(values, np.float64).reshape(count, -1)
    if (np.abs(flat - flat[0]) <= tolerance).all():
        return np.array([0, count - 1])
    kept = np.zeros(count, bool)
    kept[[0, -1]] = True
    todo = [(0, count - 1)]
    while todo:
        low, high = todo.pop()
        if high - low < 2:
            continue
        share = (np.arange(low + 1, high) - low)[:, None] / (high - low)
        apart = np.abs(flat[low + 1 : high] - (flat[low] + (flat[high] - flat[low]) * share)).max(axis=1)
        worst = int(np.argmax(apart))
        if apart[worst] > tolerance:
            at = low + 1 + worst
            kept[at] = True
            todo += [(low, at), (at, high)]
    return np.flatnonzero(kept)
