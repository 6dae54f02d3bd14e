"""Markers over time."""

from dataclasses import dataclass
from fractions import Fraction

import numpy as np
from numpy.typing import NDArray

from dynaface.core import checks
from dynaface.core.clock.timecode import Timecode
from dynaface.core.errors import InputError

Array = NDArray[np.float64]


@dataclass(frozen=True)
class MarkerTake:
    """labels: of the markers, each once; points: (frames, markers, 3) metres, NaN where a marker was not seen; rate:
    frames a second; timecode: of the first frame where known.
    """

    labels: tuple[str, ...]
    points: Array
    rate: Fraction
    timecode: Timecode | None = None

    def __post_init__(self) -> None:
        checks.shaped("points", self.points, None, len(self.labels), 3)
        if len(set(self.labels)) != len(self.labels):
            twice = next(n for n in self.labels if self.labels.count(n) > 1)
            raise InputError(f"two markers are named {twice!r}", hint="Rename one of them")
        if np.isinf(self.points).any():
            raise InputError("a marker is infinitely far away", hint="Export the take again")

    @property
    def frames(self) -> int:
        """Number of frames."""
        return len(self.points)

    def column(self, label: str) -> Array:
        """(frames, 3) of one marker; raises InputError for one that is not there."""
        if label not in self.labels:
            raise InputError(f"there is no marker {label!r}")
        return self.points[:, self.labels.index(label)]
