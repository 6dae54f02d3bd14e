"""Ease to rest: the take begins and ends at rest."""

from collections.abc import Mapping
from typing import Any

import numpy as np

from dynaface.core.curves.channels import Channels
from dynaface.core.numeric.ease import eased
from dynaface.core.parameters import Parameter
from dynaface.core.tidy.step import WHOLE, Step


def apply(channels: Channels, parameters: Mapping[str, Any]) -> Channels:
    """Everything times a factor that rises from 0 over the first frames and falls to 0 over the last."""
    frames = np.arange(channels.frames, dtype=np.float64)
    factor = np.ones(channels.frames)
    for length, away in ((parameters["start"], frames), (parameters["end"], channels.frames - 1 - frames)):
        if length > 0:
            factor *= eased(away / length)
    return channels.with_values(channels.values * factor[:, None].astype(np.float32))


STEP = Step(
    name="ease to rest",
    label="Ease to rest",
    kind="temporal",
    help="Brings the face, head included, from rest at the start of the take and back to rest at its end.",
    parameters=(
        Parameter("start", "At the start", "number", 12, "frames", 0, 300, 1),
        Parameter("end", "At the end", "number", 12, "frames", 0, 300, 1),
    ),
    apply=apply,
    halo=lambda parameters, rate: WHOLE,
)  # fmt: skip
