"""Zero-phase Butterworth low-pass over (frames, channels), channels as the innermost loop.

A cascade of second-order sections (Butterworth 1930) is run forward and backward (Gustafsson 1996 gives the family),
with the ends extended by their mirror image about the end value and the filter begun in its steady state, so that the
result is that of scipy.signal.sosfiltfilt with the same padding.
"""

import numpy as np
from numba import njit
from numpy.typing import NDArray

from dynaface.core.curves.channels import Floats
from dynaface.core.curves.known_runs import over_runs, padded
from dynaface.core.numeric.filters import butterworth

ORDER = 4


@njit(cache=True, fastmath=True)
def _pass(values, sections, start, backward):  # type: ignore[no-untyped-def]
    """Filters (frames, channels) float64 in place in one direction, begun at the steady state of its first frame."""
    frames, channels = values.shape
    count = sections.shape[0]
    state = np.empty((count, 2, channels))
    first = frames - 1 if backward else 0
    for s in range(count):
        for c in range(channels):
            state[s, 0, c] = start[s, 0] * values[first, c]
            state[s, 1, c] = start[s, 1] * values[first, c]
    for i in range(frames):
        row = values[frames - 1 - i] if backward else values[i]
        for s in range(count):
            b0, b1, b2, a1, a2 = sections[s, 0], sections[s, 1], sections[s, 2], sections[s, 4], sections[s, 5]
            near, far = state[s, 0], state[s, 1]
            for c in range(channels):
                x = row[c]
                y = b0 * x + near[c]
                near[c] = b1 * x - a1 * y + far[c]
                far[c] = b2 * x - a2 * y
                row[c] = y


def _whole(values: Floats, sections: NDArray[np.float64], start: NDArray[np.float64]) -> Floats:
    frames = len(values)
    # The padding that sosfiltfilt takes for sections whose last coefficients are not zero.
    pad = min(3 * (2 * len(sections) + 1), frames - 1)
    long = padded(values, pad).astype(np.float64)
    _pass(long, sections, start, False)
    _pass(long, sections, start, True)
    return long[pad : pad + frames].astype(np.float32)


def low_pass(values: Floats, cutoff: float, rate: float) -> Floats:
    """(frames, channels) without what is faster than `cutoff` Hz (half power after both passes at a little less).

    Gaps stay gaps and nothing is mixed across one; a cutoff at or above half the rate changes nothing.
    """
    if cutoff >= 0.49 * rate or not values.size:
        return values.copy()
    sections, start = butterworth(ORDER, cutoff, rate)
    return over_runs(values, lambda part, columns: _whole(part, sections, start))
