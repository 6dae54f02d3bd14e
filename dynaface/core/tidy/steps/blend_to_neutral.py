"""Blend to neutral: the expression fades toward rest; over a range, with that range's soft edges."""

from collections.abc import Mapping
from typing import Any

import numpy as np

from dynaface.core.curves.channels import Channels
from dynaface.core.parameters import Parameter
from dynaface.core.shapes.regions import REGION
from dynaface.core.tidy.step import Step


def apply(channels: Channels, parameters: Mapping[str, Any]) -> Channels:
    """value * (1 - amount of its region)."""
    amount = np.array([parameters["amount"][REGION[n]] for n in channels.names], np.float32)
    return channels.with_values(channels.values * (1 - amount))


STEP = Step(
    name="blend to neutral",
    label="Blend to neutral",
    kind="pointwise",
    help="Brings regions to rest. Give it a range of frames with a ramp to let a burst or a wrong moment fade away.",
    parameters=(Parameter("amount", "Amount", "per_region", 1.0, "", 0, 1, 0.01),),
    apply=apply,
)  # fmt: skip
