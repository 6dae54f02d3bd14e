"""The one-euro filter (Casiez, Roussel & Vogel 2012): slow motion is smoothed, fast motion is left alone."""

import math

import numpy as np
from numba import njit

from dynaface.core.curves.channels import Floats

# An amount of 0..1 runs the cutoff of slow motion from 12 Hz down to 0.6 Hz; speed opens it again.
CUTOFF_HIGH, CUTOFF_LOW, SPEED_CUTOFF, BETA = 12.0, 0.6, 2.0, 2.5


def cutoffs(amounts: Floats) -> Floats:
    """(channels,) cutoff in Hz of slow motion by amount; 0 where a channel is left alone."""
    return np.where(amounts > 0, CUTOFF_HIGH * (CUTOFF_LOW / CUTOFF_HIGH) ** amounts, 0.0).astype(np.float32)


@njit(cache=True)
def _pass(values, cutoff, scale, rate, backward, out):  # type: ignore[no-untyped-def]
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


@njit(cache=True, fastmath=True)
def _whole(values, cutoff, scale, rate, backward, out):  # type: ignore[no-untyped-def]
    """The same where no value is missing: without a branch, channels run as vector lanes."""
    frames, channels = values.shape
    two_pi = np.float32(2.0 * math.pi / rate)
    speed_alpha = np.float32(1.0 / (1.0 + 1.0 / (two_pi * SPEED_CUTOFF)))
    half, one, beta, fps = np.float32(0.5), np.float32(1.0), np.float32(BETA), np.float32(rate)
    first = frames - 1 if backward else 0
    held = values[first].copy()
    speed = np.zeros(channels, np.float32)
    for i in range(frames):
        f = frames - 1 - i if backward else i
        for c in range(channels):
            apart = values[f, c] - held[c]
            speed[c] += speed_alpha * (apart * fps - speed[c])
            wc = two_pi * (cutoff[c] + beta * abs(speed[c]) * scale[c])
            held[c] += wc / (one + wc) * apart
            out[f, c] += half * held[c]


def both_ways(values: Floats, amounts: Floats, scale: Floats, rate: float) -> Floats:
    """(frames, channels) smoothed forward and backward and averaged: the lag of one cancels that of the other.

    amounts: (channels,) 0..1, 0 leaves a channel alone; scale: (channels,) one over how far a channel goes.
    """
    cutoff = cutoffs(amounts)
    out = np.zeros_like(values)
    if not np.isnan(values).any():
        _whole(values, cutoff, scale, rate, False, out)
        _whole(values, cutoff, scale, rate, True, out)
        return np.where(cutoff > 0, out, values)
    _pass(values, cutoff, scale, rate, False, out)
    _pass(values, cutoff, scale, rate, True, out)
    return out


class Follower:
    """The filter on frames as they come, at whatever distance: what is shown while live."""

    def __init__(self, amounts: Floats, scale: Floats) -> None:
        """amounts, scale: (channels,) as in `both_ways`."""
        self._cutoff, self._scale = cutoffs(amounts).astype(np.float64), scale.astype(np.float64)
        self._held = np.full(len(amounts), np.nan)
        self._speed = np.zeros(len(amounts))

    def follow(self, row: Floats, seconds: float) -> Floats:
        """(channels,) smoothed, `seconds` after the frame before it; a value that is missing starts its channel anew."""
        rate = 1.0 / max(seconds, 1e-4)
        turn = 2.0 * math.pi / rate
        known = np.isfinite(row) & (self._cutoff > 0)
        fresh = known & np.isnan(self._held)
        held = np.where(fresh, row, self._held)
        with np.errstate(invalid="ignore"):
            share = 1.0 / (1.0 + 1.0 / (turn * SPEED_CUTOFF))
            speed = self._speed + share * ((row - held) * rate - self._speed)
            opened = turn * (self._cutoff + BETA * np.abs(speed) * self._scale)
            moved = held + opened / (1.0 + opened) * (row - held)
        self._speed = np.where(known, np.where(fresh, 0.0, speed), 0.0)
        self._held = np.where(known, moved, np.nan)
        return np.where(known, moved, row).astype(np.float32)
