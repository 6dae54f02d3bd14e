"""Response curve: how a weight answers, with its two ends and a bend between them."""

from collections.abc import Mapping
from typing import Any

import numpy as np

from dynaface.core.curves.channels import Channels
from dynaface.core.parameters import Parameter
from dynaface.core.shapes.standard import ANGLES
from dynaface.core.tidy.step import Step


def apply(channels: Channels, parameters: Mapping[str, Any]) -> Channels:
    """from..to of what comes in becomes 0..top; between, a power of 2 ** -bend. Angles are left alone."""
    low, high = parameters["from"], parameters["to"]
    part = np.clip((channels.values - low) / max(high - low, 1e-3), 0, None)
    made = parameters["top"] * part ** np.float32(2.0 ** -parameters["bend"])
    angles = np.array([n in ANGLES for n in channels.names])
    return channels.with_values(np.where(angles, channels.values, made).astype(np.float32))


STEP = Step(
    name="response curve",
    label="Response curve",
    kind="pointwise",
    help="Bends how weights answer: a bend above 0 lifts small ones, below 0 holds them back while large ones stay.",
    parameters=(
        Parameter("from", "Begins at", "number", 0.0, "", 0, 0.9, 0.01, help="A weight up to here becomes 0."),
        Parameter("to", "Full at", "number", 1.0, "", 0.1, 2, 0.01),
        Parameter("bend", "Bend", "number", 0.0, "", -2, 2, 0.05),
        Parameter("top", "Becomes", "number", 1.0, "", 0, 2, 0.01),
    ),
    apply=apply,
)  # fmt: skip
