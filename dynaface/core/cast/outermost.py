"""The frames at which a performer is most extreme in each way: there a cast sheet is judged."""

from dataclasses import dataclass

import numpy as np

from dynaface.core.cast.ways import WAYS
from dynaface.core.curves.channels import Channels
from dynaface.core.curves.gaps import bridged

WORTH = 0.25  # a way that never gets this far has no extreme


@dataclass(frozen=True)
class Extreme:
    """way: a key of WAYS; frame; value: how far it goes there (the most of its shapes)."""

    way: str
    frame: int
    value: float


def find_extremes(channels: Channels) -> list[Extreme]:
    """The frame of each way's extreme in a take, for ways that get anywhere."""
    values = bridged(channels.values)
    index = {n: i for i, n in enumerate(channels.names)}
    out = []
    for way, members in WAYS.items():
        columns = [index[m] for m in members if m in index]
        if not columns or not channels.frames:
            continue
        # Both sides together are more extreme than one.
        strength = values[:, columns].max(axis=1) + 0.25 * values[:, columns].mean(axis=1)
        frame = int(np.argmax(strength))
        value = float(values[frame, columns].max())
        if value >= WORTH:
            out.append(Extreme(way, frame, round(value, 3)))
    return out
