"""What is said of a sound that comes in pieces, as a long one does: how long and how loud it is, and the peaks that are drawn of it."""

from typing import Any

import numpy as np
from numpy.typing import NDArray

from dynaface.core.curves.channels import Floats
from dynaface.core.sound.sound import Sound, peaks

SILENT = 1e-4  # the loudest sample of silence
FULL, OFTEN = 0.9999, 1e-3  # what counts as clipped, and the share of samples from which on it is said


class SoundSummary:
    """Of samples (n, channels) in -1..1 at `rate` a second that are added piece by piece."""

    def __init__(self, rate: int, channels: int, peaks_a_second: int) -> None:
        self._rate, self._channels, self._a_second = rate, channels, peaks_a_second
        self._samples, self._loudest, self._clipped = 0, 0.0, 0
        self._rest = np.zeros((0, channels), np.float32)
        self._peaks: list[NDArray[np.float32]] = []

    def add(self, piece: Floats) -> None:
        """The samples that follow."""
        self._samples += len(piece)
        away = np.abs(piece)
        self._loudest = max(self._loudest, float(away.max(initial=0)))
        self._clipped += int((away >= FULL).sum())
        # Peaks are drawn at the same moments in each whole second.
        held = np.concatenate([self._rest, piece])
        whole = len(held) // self._rate * self._rate
        if whole:
            self._peaks.append(peaks(Sound(held[:whole], self._rate), self._a_second))
        self._rest = held[whole:]

    def peaks(self) -> NDArray[np.float32]:
        """(buckets, 2) as `sound.peaks` gives them."""
        return np.concatenate([*self._peaks, peaks(Sound(self._rest, self._rate), self._a_second)])

    def findings(self) -> dict[str, Any]:
        """In words and numbers, with notes on what may be wrong."""
        clipped = self._clipped / max(self._samples * self._channels, 1) > OFTEN
        silent = self._loudest < SILENT
        return {
            "seconds": self._samples / self._rate,
            "rate": self._rate,
            "channels": self._channels,
            "peak": self._loudest,
            "notes": ["it is silent"] if silent else ["it is clipped"] if clipped else [],
        }


def summary_of(sound: Sound, peaks_a_second: int = 1) -> SoundSummary:
    """The summary of a sound that is all there."""
    summary = SoundSummary(sound.rate, sound.samples.shape[1], peaks_a_second)
    for at in range(0, len(sound.samples), sound.rate):
        summary.add(sound.samples[at : at + sound.rate])
    return summary
