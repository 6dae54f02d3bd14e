"""Hold opposing shapes apart: what two opposed shapes have in common is taken from both."""

from collections.abc import Mapping
from typing import Any

import numpy as np

from dynaface.core.curves.channels import Channels
from dynaface.core.parameters import Parameter
from dynaface.core.shapes.pairs import OPPOSED
from dynaface.core.tidy.step import Step


def apply(channels: Channels, parameters: Mapping[str, Any]) -> Channels:
    """a - amount * common and b - amount * common, where common is the lesser of the two."""
    out = channels.values.copy()
    at = {n: i for i, n in enumerate(channels.names)}
    for one, other in OPPOSED:
        if one in at and other in at:
            common = np.minimum(out[:, at[one]], out[:, at[other]])
            common = np.maximum(common, 0) * np.float32(parameters["amount"])
            both = np.isfinite(common)
            out[both, at[one]] -= common[both]
            out[both, at[other]] -= common[both]
    return channels.with_values(out)


STEP = Step(
    name="hold opposing apart",
    label="Hold opposing shapes apart",
    kind="pointwise",
    help="A mouth does not smile and frown at once. What two opposed shapes have in common is taken from both, so that "
    "their difference, which is what is seen, stays.",
    parameters=(Parameter("amount", "Amount", "number", 1.0, "", 0, 1, 0.01),),
    apply=apply,
)  # fmt: skip
