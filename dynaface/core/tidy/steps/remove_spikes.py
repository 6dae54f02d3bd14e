"""Remove spikes: frames far off the median of their neighbours become that median (Hampel 1974)."""

from collections.abc import Mapping
from typing import Any

import numpy as np

from dynaface.core.curves.channels import Channels
from dynaface.core.curves.medians import moving_median
from dynaface.core.curves.patch import bridge_flags
from dynaface.core.parameters import Parameter
from dynaface.core.shapes.standard import full_range
from dynaface.core.tidy.step import Step


def apply(channels: Channels, parameters: Mapping[str, Any]) -> Channels:
    """Spikes are bridged from the frames beside them, so that a slope goes on through them."""
    half = int(parameters["half"])
    middle, spread = moving_median(channels.values, half)
    floor = np.array([parameters["least"] * full_range(n) for n in channels.names], np.float32)
    with np.errstate(invalid="ignore"):
        wild = np.abs(channels.values - middle) > np.maximum(parameters["limit"] * spread, floor)
    return channels.with_values(bridge_flags(channels.values, wild)) if wild.any() else channels


STEP = Step(
    name="remove spikes",
    label="Remove spikes",
    kind="temporal",
    help="Takes out single wild frames: those farther from the median of their neighbours than these neighbours are "
    "spread.",
    parameters=(
        Parameter("half", "Neighbours", "number", 3, "frames", 1, 7, 1,
                  help="Frames to either side; a spike may be at most this long."),
        Parameter("limit", "Limit", "number", 4.0, "× spread", 1, 20, 0.5),
        Parameter("least", "At least", "number", 0.03, "", 0, 0.5, 0.005,
                  help="A smaller step is never a spike; in shape units, thirty times as much in degrees."),
    ),
    apply=apply,
    halo=lambda parameters, rate: int(parameters["half"]) * 2 + 8,
)  # fmt: skip
