"""Shift in time: regions moved earlier or later, by parts of a frame as well."""

from collections.abc import Mapping
from typing import Any

import numpy as np
from scipy.interpolate import PchipInterpolator

from dynaface.core.curves.channels import Channels
from dynaface.core.parameters import Parameter
from dynaface.core.shapes.regions import REGION
from dynaface.core.tidy.step import Step

MAX_SHIFT = 60


def apply(channels: Channels, parameters: Mapping[str, Any]) -> Channels:
    """Each channel later by its region's frames; the ends are held. A channel's gaps stay where they are."""
    out = channels.values.copy()
    frames = np.arange(channels.frames, dtype=np.float64)
    for column, name in enumerate(channels.names):
        by = parameters["frames"][REGION[name]]
        known = np.isfinite(out[:, column])
        if by == 0 or known.sum() < 2:
            continue
        at = np.clip(frames - by, frames[known][0], frames[known][-1])
        moved = PchipInterpolator(frames[known], channels.values[known, column])(at)
        out[known, column] = moved[known].astype(np.float32)
    return channels.with_values(out)


STEP = Step(
    name="shift in time",
    label="Shift in time",
    kind="temporal",
    help="Moves regions against each other in time: a brow that should come before the word, lids that lag.",
    parameters=(Parameter("frames", "Later by", "per_region", 0.0, "frames", -MAX_SHIFT, MAX_SHIFT, 0.25),),
    apply=apply,
    halo=lambda parameters, rate: MAX_SHIFT + 2,
)  # fmt: skip
