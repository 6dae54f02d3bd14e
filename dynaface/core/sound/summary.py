"""What is said and drawn of a sound that comes in pieces, as a long one does."""

from typing import Any

import numpy as np
from numpy.typing import NDArray

from dynaface.core.curves.channels import Floats
from dynaface.core.sound.sound import Sound, peaks

SILENT = 1e-4  # the loudest sample of silence
FULL, OFTEN = 0.9999, 1e-3  # what counts as clipped, and the share of samples from which on it is said


class SoundSummary:
    """How long and how loud a sound is. Of samples (n, channels) in -1..1, `rate` a second."""

    def __init__(self, rate: int, channels: int) -> None:
        self._rate, self._channels = rate, channels
        self._samples, self._loudest, self._clipped = 0, 0.0, 0

    def add(self, piece: Floats) -> None:
        """The samples that follow."""
        self._samples += len(piece)
        away = np.abs(piece)
        self._loudest = max(self._loudest, float(away.max(initial=0)))
        self._clipped += int((away >= FULL).sum())

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


class PeaksInPieces:
    """The peaks of the same, as `sound.peaks` gives those of the whole."""

    def __init__(self, rate: int, channels: int, per_second: int) -> None:
        self._rate, self._per_second = rate, per_second
        self._rest = np.zeros((0, channels), np.float32)
        self._made: list[NDArray[np.float32]] = []

    def add(self, piece: Floats) -> None:
        """The samples that follow. Peaks stand at the same moments in each whole second, so that these are made by themselves."""
        held = np.concatenate([self._rest, piece])
        whole = len(held) // self._rate * self._rate
        if whole:
            self._made.append(peaks(Sound(held[:whole], self._rate), self._per_second))
        self._rest = held[whole:]

    def all(self) -> NDArray[np.float32]:
        """(buckets, 2) of what was added."""
        return np.concatenate([*self._made, peaks(Sound(self._rest, self._rate), self._per_second)])
