"""Channels: curves over time.

`Recording` is what a device wrote, with its own time stamps; `Channels` is even in time. In both a gap is NaN.
"""

from dataclasses import dataclass, replace
from fractions import Fraction

import numpy as np
from numpy.typing import NDArray

from dynaface.core import checks
from dynaface.core.clock.timecode import Timecode
from dynaface.core.errors import InputError

Floats = NDArray[np.float32]
Times = NDArray[np.float64]


@dataclass(frozen=True)
class Recording:
    """names: channels; times: (rows,) seconds, finite, not decreasing; values: (rows, channels) float32, gaps NaN.

    rate: the nominal rate; timecode: of the first row where known.
    """

    names: tuple[str, ...]
    times: Times
    values: Floats
    rate: Fraction
    timecode: Timecode | None = None

    def __post_init__(self) -> None:
        checks.shaped("values", self.values, len(self.times), len(self.names))
        checks.finite("times", self.times)
        _check_names(self.names)
        if (np.diff(self.times) < 0).any():
            raise InputError("times go backward", where=f"row {int(np.argmax(np.diff(self.times) < 0)) + 2}")


@dataclass(frozen=True)
class Channels:
    """names: channels; values: (frames, channels) float32, gaps NaN; rate: frames per second.

    start: seconds of frame 0 on the source's own clock; timecode: of frame 0 where known.
    """

    names: tuple[str, ...]
    values: Floats
    rate: Fraction
    start: float = 0.0
    timecode: Timecode | None = None

    def __post_init__(self) -> None:
        checks.shaped("values", self.values, None, len(self.names))
        _check_names(self.names)

    @property
    def frames(self) -> int:
        """Number of frames."""
        return len(self.values)

    @property
    def seconds(self) -> float:
        """Length in seconds."""
        return self.frames / float(self.rate)

    def column(self, name: str, default: float = 0.0) -> Floats:
        """(frames,) of one channel; a channel that is not there is constant."""
        if name in self.names:
            return self.values[:, self.names.index(name)]
        return np.full(self.frames, default, np.float32)

    def with_values(self, values: Floats) -> "Channels":
        """The same channels with other values of the same shape."""
        checks.shaped("values", values, *self.values.shape)
        return replace(self, values=values)


def _check_names(names: tuple[str, ...]) -> None:
    if len(set(names)) != len(names):
        twice = next(n for n in names if names.count(n) > 1)
        raise InputError(f"channel {twice!r} is there twice")
