"""Sound: samples, peaks for drawing, energy by frame."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from dynaface.core import checks
from dynaface.core.clock.timecode import Timecode
from dynaface.core.curves.channels import Floats


@dataclass(frozen=True)
class Sound:
    """samples: (n, channels) float32 in -1..1; rate: samples a second; timecode: of the first sample, where it is known."""

    samples: Floats
    rate: int
    timecode: Timecode | None = None

    def __post_init__(self) -> None:
        checks.shaped("samples", self.samples, None, None)

    @property
    def seconds(self) -> float:
        """Length in seconds."""
        return len(self.samples) / self.rate

    def mono(self) -> Floats:
        """(n,) mean of the channels."""
        return self.samples.mean(axis=1, dtype=np.float32)


def peaks(sound: Sound, per_second: int = 200) -> NDArray[np.float32]:
    """(buckets, 2) lowest and highest sample of each 1/per_second s."""
    mono = sound.mono()
    buckets = int(np.ceil(len(mono) * per_second / sound.rate))
    edges = (np.arange(buckets) * sound.rate / per_second).astype(int)
    if not buckets:
        return np.zeros((0, 2), np.float32)
    return np.stack([np.minimum.reduceat(mono, edges), np.maximum.reduceat(mono, edges)], axis=1)


def energy(sound: Sound, rate: float) -> NDArray[np.float64]:
    """(frames,) loudness in dB relative to the loudest frame, at `rate` frames a second, floor -60."""
    mono = sound.mono().astype(np.float64)
    # Speech lies above the rumble; a first difference is a gentle high-pass.
    squares = np.concatenate([[0.0], np.cumsum(np.diff(mono, prepend=mono[:1]) ** 2)])
    frames = max(1, int(np.floor(sound.seconds * rate)) + 1)
    middle = np.arange(frames) / rate
    half = 0.02
    low = np.clip(((middle - half) * sound.rate).astype(int), 0, len(mono))
    high = np.clip(((middle + half) * sound.rate).astype(int), 0, len(mono))
    power = (squares[high] - squares[low]) / np.maximum(high - low, 1)
    top = power.max()
    if top <= 0:
        return np.full(frames, -60.0)
    return np.maximum(10 * np.log10(np.maximum(power / top, 1e-12)), -60.0)
