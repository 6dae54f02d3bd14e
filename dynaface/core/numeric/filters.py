"""Filter designs of scipy.signal, loaded with the first use: it takes longer to load than all of ours together, and a server
that was killed is to be back soon.
"""

from typing import Any

import numpy as np
from numpy.typing import NDArray

Array = NDArray[Any]


def butterworth(order: int, cutoff: float, rate: float) -> tuple[Array, Array]:
    """((sections, 6) of a low pass, (sections, 2) its state at rest on 1); cutoff and rate in Hz."""
    from scipy.signal import butter, sosfilt_zi

    sections = butter(order, cutoff, fs=rate, output="sos")
    return np.asarray(sections), np.asarray(sosfilt_zi(sections))


def savitzky_golay_kernel(window: int, order: int) -> Array:
    """(window,) coefficients; window: odd."""
    from scipy.signal import savgol_coeffs

    return np.asarray(savgol_coeffs(window, order))


def savitzky_golay(values: Array, window: int, order: int) -> Array:
    """(frames, ...) smoothed along the first axis; the ends by the polynomial of their window. At least `window` frames."""
    from scipy.signal import savgol_filter

    return np.asarray(savgol_filter(values, window, order, axis=0, mode="interp"))
