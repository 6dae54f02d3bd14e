"""The level to which a channel returns when it rests, and how that level drifts over a take."""

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import gaussian_filter1d, minimum_filter1d

from dynaface.core.curves.channels import Floats
from dynaface.core.curves.gaps import bridged
from dynaface.core.curves.lowpass import low_pass

SPAN = 4.0  # seconds within which a channel is thought to rest once
STRAY = 0.15  # of a drift that its level may be off the line, at the median
EVERY = 0.1  # seconds from look to look
LOW = 0.35  # share of frames that lie below the course of the resting level
QUIET = 3.0  # Hz: what is faster than this is no resting level


def resting(values: Floats, rate: float) -> tuple[NDArray[np.float64], int]:
    """((looks, channels), frames from look to look): the lowest smoothed value within SPAN seconds, itself made smooth.

    Every tenth of a second is looked at: the level moves far more slowly.
    """
    step = max(1, int(EVERY * rate))
    slow = low_pass(bridged(values), min(QUIET, 0.3 * rate), rate)[::step].astype(np.float64)
    size = max(3, int(SPAN * rate / step))
    floor = minimum_filter1d(slow, size, axis=0, mode="nearest")
    return gaussian_filter1d(floor, 0.35 * size, axis=0, mode="nearest"), step


def drift_of(values: Floats, rate: float) -> Floats:
    """(frames, channels) by which the resting level has left its own lowest; 0 for a take shorter than two spans.

    Only a resting level that moves steadily counts: a straight line through it, so that a held expression is not taken
    for drift.
    """
    if len(values) < 2 * SPAN * rate:
        return np.zeros_like(values)
    level, step = resting(values, rate)
    frames = np.arange(len(values)) / step
    start, slope = _low_course(level)
    off = level - start - slope * np.arange(len(level))[:, None]
    reach = np.abs(slope) * frames[-1]
    # A level that wanders is an actor's mood; drift keeps to its line.
    steady = np.median(np.abs(off), axis=0) <= STRAY * reach
    way = np.where(slope >= 0, frames[:, None], (frames - frames[-1])[:, None]) * slope
    return np.asarray(np.where(steady, way, 0.0), np.float32)


def _low_course(level: NDArray[np.float64]) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """(start, slope a look), each (channels,), of the line below which LOW of the looks lie: a held expression lies above
    it and does not pull (quantile regression, Koenker & Bassett 1978, by reweighted least squares).
    """
    x = np.arange(len(level), dtype=np.float64)[:, None]
    weights = np.ones_like(level)
    for _ in range(25):
        total = weights.sum(axis=0)
        mean_x, mean_y = (weights * x).sum(axis=0) / total, (weights * level).sum(axis=0) / total
        slope = (weights * (x - mean_x) * (level - mean_y)).sum(axis=0) / (weights * (x - mean_x) ** 2).sum(axis=0)
        start = mean_y - slope * mean_x
        off = level - start - slope * x
        weights = np.where(off > 0, LOW, 1 - LOW) / np.maximum(np.abs(off), 2e-3)
    return start, slope


def drift_through(values: Floats, moments: Sequence[int], rate: float) -> Floats:
    """(frames, channels): what the channels hold at frames of rest, straight between them and held beyond."""
    inside = [m for m in moments if m < len(values)]
    if not inside:
        return np.zeros_like(values)
    half = max(1, int(0.1 * rate))
    known = bridged(values)
    levels = np.array([known[max(0, m - half) : m + half + 1].mean(axis=0) for m in inside])
    frames = np.arange(len(values))
    return np.stack([np.interp(frames, inside, levels[:, c]) for c in range(values.shape[1])], axis=1).astype(
        np.float32
    )
