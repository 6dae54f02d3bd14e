"""Strength: gain by region and by channel, offset by channel."""

from collections.abc import Mapping
from typing import Any

import numpy as np

from dynaface.core.curves.channels import Channels
from dynaface.core.parameters import Parameter
from dynaface.core.shapes.regions import REGION
from dynaface.core.tidy.step import Step


def apply(channels: Channels, parameters: Mapping[str, Any]) -> Channels:
    """value * region gain * channel gain + channel offset. Nothing is limited here."""
    region, gain, offset = parameters["region"], parameters["gain"], parameters["offset"]
    factors = np.array([region[REGION[n]] * gain.get(n, 1.0) for n in channels.names], np.float32)
    shifts = np.array([offset.get(n, 0.0) for n in channels.names], np.float32)
    return channels.with_values(channels.values * factors + shifts)


STEP = Step(
    name="strength",
    label="Strength",
    kind="pointwise",
    help="Makes regions or single channels stronger or weaker, or shifts them.",
    parameters=(
        Parameter("region", "Strength by region", "per_region", 1.0, "×", 0, 2, 0.01),
        Parameter("gain", "Gain", "per_channel", 1.0, "×", 0, 4, 0.01,
                  help="By channel, on top of the region's strength."),
        Parameter("offset", "Offset", "per_channel", 0.0, "", -1, 1, 0.005,
                  help="Added after the gain; in degrees for an angle."),
    ),
    apply=apply,
)  # fmt: skip
