"""Spans: an offset, or a curve of its own, that holds over a range and comes and goes with a lead-in and a lead-out."""

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Any

import numpy as np

from dynaface.core import checks
from dynaface.core.curves.keys import Keys, key_table, keys_at
from dynaface.core.errors import InputError
from dynaface.core.layers.weight import MOST, Amounts
from dynaface.core.numeric.ease import eased
from dynaface.core.shapes.rig import range_of, rig_channel
from dynaface.core.shapes.standard import CHANNELS

EASES = ("smooth", "straight", "early", "late")
"""Shapes of a lead: smooth at both ends; straight; most of the way at once; most of the way at the end."""
MAX_LEAD = 600.0  # frames
MAX_VALUE, MAX_WIDE = 2.0, 180.0  # of a weight; of degrees and millimetres


@dataclass(frozen=True)
class Span:
    """first, last: frames between which the whole offset holds, both included; lead_in, lead_out: frames over which it comes and
    goes outside of them; offset: channel -> value, or a factor in a layer that scales; strength: of the offset, 0..1.5; curves: channel -> keys
    in place of an offset, their frames counted from `origin`, held before the first and after the last.
    """

    first: float
    last: float
    lead_in: float = 6.0
    lead_out: float = 6.0
    offset: Mapping[str, float] = field(default_factory=dict)
    strength: float = 1.0
    ease: str = "smooth"
    curves: Mapping[str, Keys] = field(default_factory=dict)
    origin: float = 0.0
    id: str = field(default="", compare=False)

    def __post_init__(self) -> None:
        if self.last < self.first:
            raise InputError(f"a span ends at frame {self.last:g}, before it begins at {self.first:g}")
        checks.within("leadIn", self.lead_in, 0, MAX_LEAD)
        checks.within("leadOut", self.lead_out, 0, MAX_LEAD)
        checks.within("strength", self.strength, 0, MOST)
        checks.one_of("ease", self.ease, EASES)
        for channel in self.named:
            if rig_channel(channel) is None:
                checks.one_of("channel", channel, CHANNELS)
        for channel, value in self.offset.items():
            most = MAX_WIDE if range_of(channel) > 1 else MAX_VALUE
            checks.within(channel, value, -most, most)

    @property
    def named(self) -> tuple[str, ...]:
        """Channels that it is about."""
        return (*self.offset, *(c for c in self.curves if c not in self.offset))

    @property
    def described(self) -> tuple[Any, ...]:
        """Equal for spans that say the same."""
        own = (self.first, self.last, self.lead_in, self.lead_out, self.offset, self.strength, self.ease, self.origin)
        return (*own, {channel: key_table(keys) for channel, keys in self.curves.items()})

    def wanted(self, channel: str, low: int, high: int) -> Amounts:
        """(high - low,) what it says of a channel at frames low..high - 1, as if it held everywhere."""
        if channel in self.curves:
            return keys_at(self.curves[channel], np.arange(low, high, dtype=np.float64) - self.origin)
        return np.full(high - low, self.offset[channel])

    def touched(self, frames: int) -> tuple[int, int]:
        """First frame and the frame after the last one that it touches, leads included."""
        low = max(int(np.floor(self.first - self.lead_in - 1)), 0)
        high = min(int(np.ceil(self.last + self.lead_out + 1)) + 1, frames)
        return low, max(high, low)

    def envelope(self, low: int, high: int) -> Amounts:
        """(high - low,) at frames low..high - 1: 0 outside, 1 inside, rising and falling over the leads, without a step."""
        at = np.arange(low, high, dtype=np.float64)
        before = np.clip(1 - (self.first - at) / (self.lead_in + 1), 0, 1)
        after = np.clip(1 - (at - self.last) / (self.lead_out + 1), 0, 1)
        return _eased(np.minimum(before, after), self.ease)


def _eased(part: Amounts, ease: str) -> Amounts:
    if ease == "straight":
        return part
    if ease == "early":
        return 1 - (1 - part) ** 2
    if ease == "late":
        return part**2
    return eased(part)
