"""Moving medians and the Hampel identifier over (frames, channels), exact, by sorting networks across channels.

Hampel 1974 (median absolute deviation as a scale); the network is odd-even transposition (Knuth 5.3.4).
"""

import numpy as np
from numba import njit

from dynaface.core.curves.channels import Floats

SIGMA = 1.4826  # from a median absolute deviation to a standard deviation, for normal noise


@njit(cache=True, fastmath=True, inline="always")
def _exchange(a, b, channels):  # type: ignore[no-untyped-def]
    for c in range(channels):
        low = min(a[c], b[c])
        b[c] = max(a[c], b[c])
        a[c] = low


@njit(cache=True, fastmath=True)
def _hampel(padded, half, middle, spread):  # type: ignore[no-untyped-def]
    """`padded` (frames + 2 half, channels): writes medians and median absolute deviations (frames, channels)."""
    frames, channels = middle.shape
    width = 2 * half + 1
    window = np.empty((width, channels), np.float32)
    for f in range(frames):
        window[:] = padded[f : f + width]
        for turn in range(width):
            for k in range(turn & 1, width - 1, 2):
                _exchange(window[k], window[k + 1], channels)
        row = window[half]
        middle[f] = row
        # Sorted values lie about their median: the deviations are two sorted runs, but sorting again keeps lanes full.
        for k in range(width):
            if k != half:
                for c in range(channels):
                    window[k, c] = abs(window[k, c] - row[c])
        for c in range(channels):
            window[half, c] = 0.0
        for turn in range(width):
            for k in range(turn & 1, width - 1, 2):
                _exchange(window[k], window[k + 1], channels)
        spread[f] = window[half]


def moving_median(values: Floats, half: int) -> tuple[Floats, Floats]:
    """Median and scaled median absolute deviation of frames f - half .. f + half, each (frames, channels).

    The ends are held; a window that touches a gap gives a gap.
    """
    middle, spread = np.empty_like(values), np.empty_like(values)
    if not values.size:
        return middle, spread
    held = np.nan_to_num(values) if np.isnan(values).any() else values
    padded = np.concatenate([np.repeat(held[:1], half, axis=0), held, np.repeat(held[-1:], half, axis=0)])
    _hampel(np.ascontiguousarray(padded, np.float32), half, middle, spread)
    if held is not values:
        near = near_gaps(values, half)
        middle[near] = spread[near] = np.nan
    return middle, spread * np.float32(SIGMA)


def near_gaps(values: Floats, half: int) -> np.ndarray:
    """(frames, channels) bool: a gap within `half` frames."""
    counted = np.cumsum(np.isnan(values), axis=0, dtype=np.int32)
    counted = np.concatenate([np.zeros((1, values.shape[1]), np.int32), counted])
    frames = np.arange(len(values))
    last = np.minimum(frames + half + 1, len(values))
    return (counted[last] - counted[np.maximum(frames - half, 0)]) > 0
