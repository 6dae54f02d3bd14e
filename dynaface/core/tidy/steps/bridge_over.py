"""Bridge over: what is in the place is thrown away and replaced by a curve from edge to edge."""

from collections.abc import Mapping
from typing import Any

import numpy as np

from dynaface.core.curves.channels import Channels
from dynaface.core.curves.patch import EDGE_FRAMES, bridge_flags
from dynaface.core.tidy.step import Step


def apply(channels: Channels, parameters: Mapping[str, Any]) -> Channels:
    """Without a place there is nothing to bridge."""
    return channels


def within(channels: Channels, parameters: Mapping[str, Any], inside: np.ndarray) -> Channels:
    """Each run of frames that lies inside (frames, channels), replaced."""
    return channels.with_values(bridge_flags(channels.values, inside))


STEP = Step(
    name="bridge over",
    label="Bridge over",
    kind="temporal",
    help="Throws a stretch away and draws a curve over it that leaves and arrives with the slopes beside it. Give it a "
    "range of frames: without one it does nothing.",
    parameters=(),
    apply=apply,
    within=within,
    halo=lambda parameters, rate: EDGE_FRAMES + 2,
    gaps="bridged",
)  # fmt: skip
