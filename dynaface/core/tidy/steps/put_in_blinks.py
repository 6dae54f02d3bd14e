"""Put in blinks: lids close and open at chosen frames."""

from collections.abc import Mapping
from typing import Any

import numpy as np

from dynaface.core.curves.channels import Channels
from dynaface.core.parameters import Parameter
from dynaface.core.tidy.step import WHOLE, Step

# Seconds: lids close faster than they open (Trutoiu et al. 2011).
CLOSE, SHUT, BACK = 0.085, 0.03, 0.19


def profile(since: np.ndarray) -> np.ndarray:
    """(frames,) weight 0..1 of a blink, by seconds since the lids began to close."""
    closing = np.clip(since / CLOSE, 0, 1)
    opened = np.clip((since - CLOSE - SHUT) / BACK, 0, 1)
    return closing * closing * (3 - 2 * closing) * (1 - opened) ** 2.2


def apply(channels: Channels, parameters: Mapping[str, Any]) -> Channels:
    """Lids are at least as far closed as the blinks say; the ring of muscle answers a moment later."""
    seconds = np.arange(channels.frames) / float(channels.rate)
    out = channels.values.copy()
    at = {n: i for i, n in enumerate(channels.names)}
    for frame in parameters["frames"]:
        since = seconds - frame / float(channels.rate) + CLOSE
        lid = (parameters["depth"] * profile(since)).astype(np.float32)
        ring = (0.15 * parameters["depth"] * profile(since - 0.035)).astype(np.float32)
        for side in ("Left", "Right"):
            if f"eyeBlink{side}" in at:
                column = at[f"eyeBlink{side}"]
                out[:, column] = np.maximum(out[:, column], lid)
            if f"eyeSquint{side}" in at:
                out[:, at[f"eyeSquint{side}"]] += ring
    return channels.with_values(out)


STEP = Step(
    name="put in blinks",
    label="Put in blinks",
    kind="temporal",
    help="Makes a blink at each of the chosen frames, closing faster than it opens. For eyes that were never seen to "
    "blink.",
    parameters=(
        Parameter("frames", "Closed at", "frames", (), "frames", help="Frames at which the lids are shut."),
        Parameter("depth", "Depth", "number", 1.0, "", 0.2, 1, 0.01),
    ),
    apply=apply,
    halo=lambda parameters, rate: WHOLE,
)  # fmt: skip
