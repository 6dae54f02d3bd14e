"""Reduce to keys: each channel becomes the curve of as few keys as stay within a tolerance."""

from collections.abc import Mapping
from typing import Any

import numpy as np

from dynaface.core.curves.channels import Channels
from dynaface.core.curves.keys import evaluate_keys
from dynaface.core.curves.reduce import TOLERANCE, reduce
from dynaface.core.parameters import Parameter
from dynaface.core.shapes.standard import full_range
from dynaface.core.tidy.step import WHOLE, Step


def apply(channels: Channels, parameters: Mapping[str, Any]) -> Channels:
    """The curves of the keys; gaps stay."""
    out = channels.values.copy()
    for column, name in enumerate(channels.names):
        tolerance = parameters["tolerance"] * full_range(name)
        made = reduce(channels.values[:, column], float(channels.rate), tolerance)
        known = np.isfinite(out[:, column])
        out[known, column] = evaluate_keys(made.keys, channels.frames)[known]
    return channels.with_values(out)


STEP = Step(
    name="reduce to keys",
    label="Reduce to keys",
    kind="key-making",
    help="Makes each curve that of as few keys as the tolerance allows: flat at holds and extremes, smooth elsewhere, "
    "with a corner only where the curve has one.",
    parameters=(
        Parameter("tolerance", "Tolerance", "number", TOLERANCE, "", 0.001, 0.1, 0.001,
                  help="The farthest that the curve may move, in shape units; thirty times as much in degrees."),
    ),
    apply=apply,
    halo=lambda parameters, rate: WHOLE,
)  # fmt: skip
