"""Footage: moving pictures of a face."""

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from fractions import Fraction

import numpy as np
from numpy.typing import NDArray

from dynaface.core.clock.timecode import Timecode
from dynaface.core.curves.channels import Times


@dataclass(frozen=True)
class Footage:
    """width, height: pixels as shown, after turning; times: (frames,) seconds of each picture from the first; rate:
    nominal; sound: whether there is any; open: gives each picture (height, width, 3) RGB from a frame on.
    """

    width: int
    height: int
    times: Times
    rate: Fraction
    codec: str
    sound: bool
    timecode: Timecode | None
    open: Callable[[int], Iterator[NDArray[np.uint8]]]

    def pictures(self, first: int = 0) -> Iterator[NDArray[np.uint8]]:
        """Each picture from frame `first` on; fewer than `frames` when the tail is damaged."""
        return self.open(first)

    @property
    def frames(self) -> int:
        """Number of pictures."""
        return len(self.times)

    @property
    def seconds(self) -> float:
        """Length in seconds."""
        return float(self.times[-1] - self.times[0]) + 1 / float(self.rate)
