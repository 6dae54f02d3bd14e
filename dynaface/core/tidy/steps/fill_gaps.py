"""Fill gaps: from the frames beside a gap with their slopes, or from the other side of the face."""

from collections.abc import Mapping
from typing import Any

import numpy as np

from dynaface.core.curves.channels import Channels
from dynaface.core.curves.known_runs import runs
from dynaface.core.curves.patch import bridge_flags
from dynaface.core.parameters import Parameter
from dynaface.core.shapes.pairs import SIDES
from dynaface.core.tidy.step import WHOLE, Step


def apply(channels: Channels, parameters: Mapping[str, Any]) -> Channels:
    """Gaps of up to `longest` frames filled; what the other side does not know either is bridged."""
    values = channels.values
    missing = np.isnan(values)
    if not missing.any():
        return channels
    if parameters["from"] == "mirrored side":
        values = values.copy()
        at = {n: i for i, n in enumerate(channels.names)}
        for pair in SIDES:
            for own, other in (pair, pair[::-1]):
                if own in at and other in at:
                    _borrow(values, missing, at[own], at[other], int(parameters["longest"]))
        missing = np.isnan(values)
    return channels.with_values(bridge_flags(values, missing, parameters["longest"]))


def _borrow(values: np.ndarray, missing: np.ndarray, own: int, other: int, longest: int) -> None:
    """Frames of `own` from `other`, leaned so that both edges of the gap meet."""
    for first, stop in runs(missing[:, own]):
        around = slice(max(first - 1, 0), min(stop + 1, len(values)))
        if stop - first > longest or np.isnan(values[around, other]).any() or missing[around, other].any():
            continue
        off = [values[f, own] - values[f, other] for f in (first - 1, stop) if 0 <= f < len(values)]
        if not off:
            continue
        lean = np.linspace(off[0], off[-1], stop - first + 2)[1:-1]
        values[first:stop, own] = values[first:stop, other] + lean


STEP = Step(
    name="fill gaps",
    label="Fill gaps",
    kind="temporal",
    help="Puts frames where there are none: a curve from edge to edge that leaves and arrives with the slopes beside "
    "the gap, or what the other side of the face did.",
    parameters=(
        Parameter("from", "Taken from", "choice", "neighbours", options=("neighbours", "mirrored side")),
        Parameter("longest", "Longest gap", "number", 60, "frames", 1, 1000, 1,
                  help="A longer gap stays one."),
    ),
    apply=apply,
    halo=lambda parameters, rate: WHOLE,
    gaps="bridged",
)  # fmt: skip
