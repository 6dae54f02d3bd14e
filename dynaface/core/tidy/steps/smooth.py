"""Smooth: one-euro (Casiez, Roussel & Vogel 2012) or Savitzky-Golay (1964), with an amount for each region."""

import math
from collections.abc import Mapping
from typing import Any

import numpy as np
from numba import njit
from scipy.signal import savgol_filter

from dynaface.core.curves.channels import Channels, Floats
from dynaface.core.parameters import Parameter
from dynaface.core.shapes.regions import REGION
from dynaface.core.tidy.step import Step

# One-euro: amount 0..1 runs the slow-motion cutoff from 12 Hz down to 0.6 Hz; speed opens it again.
CUTOFF_HIGH, CUTOFF_LOW, SPEED_CUTOFF, BETA = 12.0, 0.6, 2.0, 2.5
# Savitzky-Golay: amount 1 is a window of this many seconds, order 3.
WINDOW = 0.4
ORDER = 3


@njit(cache=True)
def _one_euro_pass(values, cutoff, scale, rate, backward, out):  # type: ignore[no-untyped-def]
    """One direction over (frames, channels); a gap starts the filter anew. Adds half its result to `out`."""
    frames, channels = values.shape
    two_pi = 2.0 * math.pi / rate
    speed_alpha = 1.0 / (1.0 + 1.0 / (two_pi * SPEED_CUTOFF))
    held = np.full(channels, np.nan)
    speed = np.zeros(channels)
    for i in range(frames):
        f = frames - 1 - i if backward else i
        for c in range(channels):
            x = values[f, c]
            if math.isnan(x) or cutoff[c] <= 0.0:
                held[c] = np.nan
                speed[c] = 0.0
                out[f, c] += 0.5 * x
                continue
            if math.isnan(held[c]):
                held[c] = x
            else:
                speed[c] += speed_alpha * ((x - held[c]) * rate - speed[c])
                wc = two_pi * (cutoff[c] + BETA * abs(speed[c]) * scale[c])
                held[c] += wc / (1.0 + wc) * (x - held[c])
            out[f, c] += 0.5 * held[c]


def _one_euro(values: Floats, amounts: Floats, scale: Floats, rate: float) -> Floats:
    # Forward and backward, averaged: the lag of one cancels that of the other.
    cutoff = np.where(amounts > 0, CUTOFF_HIGH * (CUTOFF_LOW / CUTOFF_HIGH) ** amounts, 0.0)
    out = np.zeros_like(values)
    _one_euro_pass(values, cutoff, scale, rate, False, out)
    _one_euro_pass(values, cutoff, scale, rate, True, out)
    return out


def _window(amount: float, rate: float) -> int:
    return int(amount * WINDOW * rate / 2) * 2 + 1


def _savitzky_golay(values: Floats, amounts: Floats, rate: float) -> Floats:
    out = values.copy()
    known = ~np.isnan(values)
    for amount in np.unique(amounts):
        window = _window(float(amount), rate)
        if window <= ORDER + 1:
            continue
        columns = np.flatnonzero(amounts == amount)
        whole = columns[known[:, columns].all(axis=0)]
        if len(values) >= window and len(whole):
            out[:, whole] = savgol_filter(values[:, whole], window, ORDER, axis=0, mode="interp")
        for column in np.setdiff1d(columns, whole):
            _smooth_runs(values[:, column], known[:, column], window, out[:, column])
    return out


def _smooth_runs(values: Floats, known: np.ndarray, window: int, out: Floats) -> None:
    edges = np.flatnonzero(np.diff(np.concatenate([[False], known, [False]]).astype(np.int8)))
    for start, stop in zip(edges[::2], edges[1::2], strict=True):
        if stop - start >= window:
            out[start:stop] = savgol_filter(values[start:stop], window, ORDER, mode="interp")


def apply(channels: Channels, parameters: Mapping[str, Any]) -> Channels:
    """Each channel smoothed by its region's amount; gaps stay, and nothing is smoothed across one."""
    amounts = np.array([parameters["amount"][REGION[n]] for n in channels.names], np.float32)
    rate = float(channels.rate)
    if parameters["method"] == "one-euro":
        # Angles in degrees move about thirty times as far as weights do.
        scale = np.array(
            [1 / 30 if REGION[n] == "head" or n.startswith("gaze") else 1 for n in channels.names], np.float32
        )
        return channels.with_values(_one_euro(channels.values, amounts, scale, rate))
    return channels.with_values(_savitzky_golay(channels.values, amounts, rate))


DEFAULT = 0.3

STEP = Step(
    name="smooth",
    label="Smooth",
    kind="temporal",
    help="Takes jitter out. One-euro smooths slow motion and leaves fast motion alone; Savitzky-Golay keeps the height "
    "of peaks.",
    parameters=(
        Parameter("method", "Method", "choice", "one-euro", options=("one-euro", "savitzky-golay")),
        Parameter("amount", "Amount", "per_region", DEFAULT, low=0, high=1,
                  help="0 leaves the region as it is."),
    ),
    apply=apply,
    reach=lambda parameters, rate: int(2 * rate),
)  # fmt: skip
