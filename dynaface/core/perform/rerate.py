"""A performance at another frame rate."""

from collections.abc import Callable, Mapping
from dataclasses import replace
from fractions import Fraction
from typing import Any

import numpy as np
from numpy.typing import NDArray

from dynaface.core.body.rotations import continuous, slerp
from dynaface.core.curves.rerate import at_rate
from dynaface.core.curves.resample import resample
from dynaface.core.perform.perform import Performance

Values = NDArray[Any]


def performance_at(made: Performance, rate: Fraction) -> Performance:
    """The same performance at another rate, from the same start: weights stay within what they were between, rotations go along arcs."""
    channels = at_rate(made.channels, rate)
    if channels.rate == made.channels.rate or not channels.frames:
        return replace(made, channels=channels)
    exact = np.minimum(np.arange(channels.frames) * float(made.channels.rate / rate), made.channels.frames - 1)
    low = np.floor(exact + 1e-9).astype(int)
    high, part = np.minimum(low + 1, made.channels.frames - 1), np.clip(exact - low, 0, 1)
    times = np.arange(made.channels.frames, dtype=np.float64)

    def turned(values: Values) -> Values:
        share = part.reshape(-1, *(1,) * (values.ndim - 2))
        return continuous(slerp(values[low].astype(np.float64), values[high].astype(np.float64), share))

    def moved(values: Values) -> Values:
        flat = values.reshape(len(values), -1).astype(np.float32)
        return np.asarray(resample(times, flat, exact, 1.5)).reshape(len(exact), *values.shape[1:])

    def weighed(values: Values) -> Values:
        return np.clip(moved(values), np.minimum(values[low], values[high]), np.maximum(values[low], values[high]))

    def each(table: Mapping[str, Values], how: Callable[[Values], Values]) -> dict[str, Values]:
        return {name: how(values) for name, values in table.items()}

    cast = replace(made.cast, weights=weighed(made.cast.weights), eyes=each(made.cast.eyes, turned),
                   turns=each(made.cast.turns, turned), shifts=each(made.cast.shifts, moved))  # fmt: skip
    return replace(made, channels=channels, cast=cast, local=turned(made.local).astype(np.float32), root=moved(made.root),
                   shifts=each(made.shifts, moved))  # fmt: skip
