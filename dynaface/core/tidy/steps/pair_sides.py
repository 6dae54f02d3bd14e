"""Pair sides: left and right do the same, one follows the other, or both keep their amount and share the timing."""

from collections.abc import Mapping
from typing import Any

import numpy as np

from dynaface.core.curves.channels import Channels
from dynaface.core.curves.events import blinks
from dynaface.core.parameters import Parameter
from dynaface.core.shapes.pairs import SIDES
from dynaface.core.tidy.step import WHOLE, Step

WAYS = ("average", "left leads", "right leads", "same timing")


def apply(channels: Channels, parameters: Mapping[str, Any]) -> Channels:
    """Both sides of each pair that is there; a frame that one side does not know is left alone."""
    out = channels.values.copy()
    at = {n: i for i, n in enumerate(channels.names)}
    for left, right in SIDES:
        if left not in at or right not in at:
            continue
        a, b = channels.values[:, at[left]], channels.values[:, at[right]]
        made_a, made_b = _paired(a, b, parameters["way"], float(channels.rate))
        both = np.isfinite(a) & np.isfinite(b)
        out[both, at[left]] = made_a[both]
        out[both, at[right]] = made_b[both]
    return channels.with_values(out)


def _paired(a: np.ndarray, b: np.ndarray, way: str, rate: float) -> tuple[np.ndarray, np.ndarray]:
    if way == "left leads":
        return a, a
    if way == "right leads":
        return b, b
    middle = 0.5 * (a + b)
    if way == "average":
        return middle, middle
    # Each blink of the two sides' mean keeps the height that each side had; between blinks, each side its own share.
    mean_a, mean_b = np.nanmean(a), np.nanmean(b)
    total = max(0.5 * (mean_a + mean_b), 1e-6)
    shares = np.stack([np.full(len(a), mean_a / total), np.full(len(b), mean_b / total)])
    around = int(0.25 * rate)
    for blink in blinks(np.nan_to_num(middle).astype(np.float32), rate):
        span = slice(max(0, blink.first - around), blink.last + around + 1)
        heights = np.nanmax(a[span]), np.nanmax(b[span]), max(float(np.nanmax(middle[span])), 1e-6)
        shares[0, span], shares[1, span] = heights[0] / heights[2], heights[1] / heights[2]
    width = max(3, int(0.1 * rate) | 1)
    kernel = np.ones(width) / width
    smooth = [np.convolve(np.pad(s, width // 2, mode="edge"), kernel, mode="valid") for s in shares]
    return (middle * smooth[0]).astype(np.float32), (middle * smooth[1]).astype(np.float32)


STEP = Step(
    name="pair sides",
    label="Pair left and right",
    kind="temporal",
    help="Makes the sides agree: their average, one leading the other, or the same timing while each keeps its own "
    "amount. Eyes look the same way, so out on one side goes with in on the other.",
    parameters=(Parameter("way", "How", "choice", "average", options=WAYS),),
    apply=apply,
    halo=lambda parameters, rate: WHOLE if parameters["way"] == "same timing" else 0,
    regions=("lids",),
)  # fmt: skip
