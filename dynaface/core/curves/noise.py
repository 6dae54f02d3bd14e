"""How noisy a curve is, measured from the curve alone."""

from typing import Any

import numpy as np
from numpy.typing import NDArray

# The third difference of white noise is larger by the root of 1 + 9 + 9 + 1.
GAIN = np.sqrt(20.0)


def noise_of(values: NDArray[np.floating[Any]]) -> NDArray[np.float64]:
    """(channels,) standard deviation of the white noise on (frames, channels), from the median third difference.

    Motion is smooth from frame to frame most of the time, so most third differences are noise. Frames at a limit, where
    noise is cut off, are passed over; a channel with fewer than 12 known ones has 0.
    """
    third = np.diff(values.astype(np.float64), n=3, axis=0)
    third[third == 0.0] = np.nan
    out = np.zeros(values.shape[1])
    for column in range(values.shape[1]):
        known = np.abs(third[:, column][np.isfinite(third[:, column])])
        if len(known) >= 12:
            out[column] = np.median(known) / 0.6745 / GAIN
    return out
