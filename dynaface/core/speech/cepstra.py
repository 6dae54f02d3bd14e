"""What a voice sounds like from moment to moment, as mel-frequency cepstra (Davis & Mermelstein 1980)."""

from dataclasses import dataclass
from functools import cache
from math import gcd

import numpy as np
from numpy.typing import NDArray
from scipy.fft import dct
from scipy.signal import resample_poly

from dynaface.core.sound.sound import Sound

Array = NDArray[np.float64]
RATE = 16_000
HOP, WINDOW = 80, 400  # samples: 5 ms, 25 ms
BANDS, KEPT = 26, 13
LOWEST, HIGHEST = 100.0, 7200.0  # Hz
EMPHASIS = 0.97
SECONDS = HOP / RATE


@dataclass(frozen=True)
class Cepstra:
    """values: (steps, 2 * KEPT) cepstra and how they change, each column about 0 with a spread of 1 over what is loud; loud: (steps,)
    decibels of each step; a step is SECONDS long, the middle of its window lies in its middle.
    """

    values: Array
    loud: Array


def heard_at(sound: Sound, rate: int = RATE) -> Array:
    """(samples,) one channel at a rate."""
    common = gcd(rate, sound.rate)
    return np.asarray(resample_poly(sound.mono().astype(np.float64), rate // common, sound.rate // common))


def cepstra(samples: Array) -> Cepstra:
    """Cepstra of (samples,) at RATE; a sound shorter than a window has one step."""
    padded = np.pad(samples, (WINDOW // 2 - HOP // 2, WINDOW))
    emphasised = np.append(padded[:1], padded[1:] - EMPHASIS * padded[:-1])
    steps = max(len(samples) // HOP, 1)
    at = np.arange(steps)[:, None] * HOP + np.arange(WINDOW)
    frames = emphasised[at] * np.hamming(WINDOW)
    power = np.abs(np.fft.rfft(frames, 512)) ** 2
    mel = power @ _bands().T
    loud = 10 * np.log10(np.mean(padded[at] ** 2, axis=1) + 1e-10)
    still = dct(np.log(mel + 1e-8), norm="ortho", axis=1)[:, :KEPT]
    change = np.gradient(_smoothed(still), axis=0) if steps > 1 else np.zeros_like(still)
    both = np.concatenate([still, change], axis=1)
    speaks = loud > np.percentile(loud, 95) - 30
    spread = both[speaks].std(axis=0)
    return Cepstra((both - both[speaks].mean(axis=0)) / np.where(spread > 1e-6, spread, 1.0), loud)


def _smoothed(values: Array) -> Array:
    out = values.copy()
    out[1:-1] = (values[:-2] + values[1:-1] + values[2:]) / 3
    return out


@cache
def _bands() -> Array:
    """(BANDS, bins) triangular bands, evenly spaced in mel."""
    low, high = (2595 * np.log10(1 + f / 700) for f in (LOWEST, HIGHEST))
    centres = 700 * (10 ** (np.linspace(low, high, BANDS + 2) / 2595) - 1)
    bins = np.fft.rfftfreq(512, 1 / RATE)
    rise = (bins - centres[:-2, None]) / (centres[1:-1] - centres[:-2])[:, None]
    fall = (centres[2:, None] - bins) / (centres[2:] - centres[1:-1])[:, None]
    return np.maximum(np.minimum(rise, fall), 0)
