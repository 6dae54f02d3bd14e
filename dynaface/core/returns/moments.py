"""At which moments a file is read whose keys are wherever a program left them."""

from collections.abc import Sequence
from fractions import Fraction

import numpy as np
from numpy.typing import NDArray

from dynaface.core.clock.rates import nominal_rate
from dynaface.core.errors import LimitError

Times = NDArray[np.float64]
ON_FRAME = 0.02  # of a frame
MOST_FRAMES = 1_000_000


def even_moments(keyed: Sequence[Times], near: Fraction) -> tuple[Times, Fraction]:
    """(moments in seconds, their rate) from the first of all keys to the last; near: the rate that it is if all keys lie on frames of it."""
    own = [t for t in keyed if len(t)]
    if not own:
        return np.zeros(1), near
    first, last = float(min(t[0] for t in own)), float(max(t[-1] for t in own))
    times = np.unique(np.concatenate(own))
    counted = (times - first) * float(near)
    on_frames = np.abs(counted - np.round(counted)).max() < ON_FRAME
    rate = near if on_frames else nominal_rate(max(own, key=len))
    frames = round((last - first) * float(rate)) + 1
    if frames > MOST_FRAMES:
        raise LimitError(f"the file has {frames} frames", hint=f"At most {MOST_FRAMES} are read")
    return first + np.arange(frames) / float(rate), rate
