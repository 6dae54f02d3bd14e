"""Channels at another frame rate."""

from dataclasses import replace
from fractions import Fraction

import numpy as np

from dynaface.core.curves.channels import Channels
from dynaface.core.curves.resample import resample


def at_rate(channels: Channels, rate: Fraction) -> Channels:
    """The same channels at another rate, from the same start; gaps stay gaps."""
    if rate == channels.rate or channels.frames == 0:
        return replace(channels, rate=rate) if channels.frames == 0 else channels
    times = np.arange(channels.frames) / float(channels.rate)
    frames = int(np.floor(times[-1] * float(rate) + 1e-6)) + 1
    values = resample(times, channels.values, np.arange(frames) / float(rate), 1.5 / float(channels.rate))
    return replace(channels, values=values, rate=rate)
