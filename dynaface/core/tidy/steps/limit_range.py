"""Limit range: values beyond a limit are cut off, hard or with a soft knee."""

from collections.abc import Mapping
from typing import Any

import numpy as np

from dynaface.core.curves.channels import Channels, Floats
from dynaface.core.parameters import Parameter
from dynaface.core.shapes.standard import ANGLES
from dynaface.core.tidy.step import Step


def soft_top(values: Floats, top: float, knee: float) -> Floats:
    """Values of any shape that approach `top` from `knee` below it without a corner and never pass it."""
    if knee <= 0:
        return np.minimum(values, top)
    over = np.maximum(values - (top - knee), 0) / knee
    return np.where(over > 0, top - knee + knee * (1 - np.exp(-over)), values).astype(np.float32)


def apply(channels: Channels, parameters: Mapping[str, Any]) -> Channels:
    """Weights within low..high; angles are left alone."""
    low, high, knee = parameters["low"], parameters["high"], parameters["knee"]
    if low > high:
        low, high = high, low
    knee = min(knee, (high - low) / 2)
    made = -soft_top(-soft_top(channels.values, high, knee), -low, knee)
    angles = np.array([n in ANGLES for n in channels.names])
    return channels.with_values(np.where(angles, channels.values, made).astype(np.float32))


STEP = Step(
    name="limit range",
    label="Limit range",
    kind="pointwise",
    help="Keeps weights between two limits. With a knee they come to the limit softly instead of being cut flat.",
    parameters=(
        Parameter("low", "Lowest", "number", 0.0, "", -1, 1, 0.01),
        Parameter("high", "Highest", "number", 1.0, "", 0, 2, 0.01),
        Parameter("knee", "Knee", "number", 0.0, "", 0, 0.5, 0.01, help="How far before a limit it begins to act; 0 cuts hard."),
    ),
    apply=apply,
)  # fmt: skip
