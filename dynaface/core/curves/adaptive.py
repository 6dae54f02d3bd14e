"""Smoothing whose width fits the motion: wide where a curve is calm, narrow where it is quick.

At each frame local cubics of growing width are compared. The widest whose confidence interval still meets those of
all narrower ones is taken (intersection of confidence intervals: Goldenshluger & Nemirovski 1997; Katkovnik 1999). So
noise goes where nothing happens, and a blink stays as sharp as the noise allows.
"""

from functools import lru_cache

import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import correlate1d

from dynaface.core.curves.channels import Floats
from dynaface.core.curves.known_runs import over_runs, padded
from dynaface.core.numeric.filters import savitzky_golay_kernel

HALVES = (2, 3, 5, 8, 12, 18, 26)
ORDER = 3
WIDTH = 1.1  # half width of an interval in standard deviations
SETTLE = 2  # frames to either side over which the choice of width is smoothed


@lru_cache(maxsize=32)
def _kernel(half: int) -> tuple[NDArray[np.float64], float]:
    kernel = savitzky_golay_kernel(2 * half + 1, ORDER)
    return kernel, float(np.sqrt((kernel**2).sum()))


def adaptive(values: Floats, noise: NDArray[np.float64], rate: float = 60.0) -> Floats:
    """(frames, channels) smoothed; noise: (channels,) standard deviation of each channel's noise, 0 leaves it alone.

    rate: widths are meant at 60 frames a second and grow with the rate.
    """
    halves = sorted({max(2, round(h * rate / 60)) for h in HALVES})
    return over_runs(values, lambda part, columns: _smoothed(part, noise[columns], halves))


def _smoothed(values: Floats, noise: NDArray[np.float64], halves: list[int]) -> Floats:
    halves = [h for h in halves if 2 * h + 1 <= len(values)]
    if not halves or not (noise > 0).any():
        return values
    wide = padded(values, halves[-1])
    inside = slice(halves[-1], halves[-1] + len(values))
    sigma = noise.astype(np.float32)[None, :]
    low, high = values - WIDTH * sigma, values + WIDTH * sigma
    chosen = np.zeros(values.shape, np.float32)
    alive = np.ones(values.shape, bool)
    looks = [values]
    for number, half in enumerate(halves, 1):
        kernel, gain = _kernel(half)
        look = correlate1d(wide, kernel, axis=0, mode="nearest")[inside]
        looks.append(look)
        low = np.maximum(low, look - WIDTH * gain * sigma)
        high = np.minimum(high, look + WIDTH * gain * sigma)
        alive &= low <= high
        chosen[alive] = number
    # Neighbours choose alike: a width that jumps from frame to frame would leave a rough curve.
    box = np.ones(2 * SETTLE + 1) / (2 * SETTLE + 1)
    chosen = correlate1d(chosen, box, axis=0, mode="nearest")
    out = np.zeros_like(values)
    for number, look in enumerate(looks):
        out += look * np.clip(1 - np.abs(chosen - number), 0, 1)
    return np.where(sigma > 0, out, values).astype(np.float32)
