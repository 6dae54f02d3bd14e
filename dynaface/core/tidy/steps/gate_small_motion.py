"""Gate small motion: restless small moves are held still, larger ones pass."""

from collections.abc import Mapping
from typing import Any

import numpy as np

from dynaface.core.curves.channels import Channels
from dynaface.core.curves.lowpass import low_pass
from dynaface.core.parameters import Parameter
from dynaface.core.shapes.standard import full_range
from dynaface.core.tidy.step import Step

SLOW = 0.8  # Hz: the level about which motion is small or not


def apply(channels: Channels, parameters: Mapping[str, Any]) -> Channels:
    """Motion about the slow level: none within the width, all of it beyond width and knee, a smooth way between."""
    rate = float(channels.rate)
    level = low_pass(channels.values, min(SLOW, 0.4 * rate), rate)
    move = channels.values - level
    scale = np.array([full_range(n) for n in channels.names], np.float32)
    part = np.clip((np.abs(move) / scale - parameters["width"]) / max(parameters["knee"], 1e-6), 0, 1)
    return channels.with_values((level + move * part * part * (3 - 2 * part)).astype(np.float32))


STEP = Step(
    name="gate small motion",
    label="Gate small motion",
    kind="temporal",
    help="Holds a restless curve still: moves smaller than the width about its slow level go, larger ones stay, with a "
    "soft way between.",
    parameters=(
        Parameter("width", "Width", "number", 0.02, "", 0, 0.3, 0.005, help="In shape units; thirty times as much in degrees."),
        Parameter("knee", "Knee", "number", 0.03, "", 0.005, 0.3, 0.005, help="How far beyond the width motion is whole again."),
    ),
    apply=apply,
    halo=lambda parameters, rate: int(8 * rate),
)  # fmt: skip
