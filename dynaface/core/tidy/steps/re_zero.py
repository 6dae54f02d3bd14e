"""Re-zero: the slow drift of the neutral face taken out, as it shows in still moments."""

from collections.abc import Mapping
from typing import Any

import numpy as np

from dynaface.core.curves.baseline import drift_of, drift_through
from dynaface.core.curves.channels import Channels
from dynaface.core.parameters import Parameter
from dynaface.core.shapes.standard import ANGLES
from dynaface.core.tidy.step import WHOLE, Step


def apply(channels: Channels, parameters: Mapping[str, Any]) -> Channels:
    """The drift is subtracted; a take shorter than the least span of a drift has none. Angles are left alone."""
    if parameters["by"] == "chosen moments":
        drift = drift_through(channels.values, parameters["moments"], float(channels.rate))
    else:
        drift = drift_of(channels.values, float(channels.rate))
    made = channels.values - drift * np.float32(parameters["amount"])
    angles = np.array([n in ANGLES for n in channels.names])
    return channels.with_values(np.where(angles, channels.values, made).astype(np.float32))


STEP = Step(
    name="re-zero",
    label="Re-zero",
    kind="temporal",
    help="Takes out the slow drift of neutral. Found moments are the lowest still ones of each channel; chosen moments "
    "are frames at which you know the face to be at rest.",
    parameters=(
        Parameter("by", "By", "choice", "found moments", options=("found moments", "chosen moments")),
        Parameter("moments", "Moments", "frames", (), "frames", help="Frames at which the face is at rest."),
        Parameter("amount", "Amount", "number", 1.0, "", 0, 1, 0.01),
    ),
    apply=apply,
    halo=lambda parameters, rate: WHOLE,
)  # fmt: skip
