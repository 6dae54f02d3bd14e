"""What an edit of keys sees of one channel: a take's channel is one case, a layer's another."""

from abc import ABC, abstractmethod
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

import numpy as np

from dynaface.core import checks
from dynaface.core.curves import key_edits
from dynaface.core.curves.channels import Floats
from dynaface.core.curves.held import Held
from dynaface.core.curves.keys import Key, Keys, keys_at
from dynaface.core.curves.reduce import TOLERANCE
from dynaface.core.errors import InputError
from dynaface.core.shapes.pairs import SIDES
from dynaface.core.shapes.rig import range_of

Edit = Mapping[str, Any]
Made = dict[str, Held | None]
"""Channel -> its keys after an edit, None where there are none any more."""


@dataclass(frozen=True)
class Column:
    """One channel over the frames, each (frames,). raw: as it was captured; beneath: without the keys that are edited; now: with them."""

    raw: Floats
    beneath: Floats
    now: Floats
    rate: float


class KeyCase(ABC):
    """One channel of an edit. held: its keys, None where it has none; chosen: numbers of those that the edit is about; beside: keys of
    the other channels.
    """

    def __init__(self, channel: str, held: Held | None, chosen: frozenset[int], beside: Mapping[str, Held],
                 column: Column, edit: Edit) -> None:  # fmt: skip
        self.channel, self.held, self.chosen, self.beside, self.column, self.edit = (
            channel, held, chosen, beside, column, edit,
        )  # fmt: skip

    def number(self, name: str, default: float = 0.0, low: float = -1e6, high: float = 1e6) -> float:
        """A number of the edit."""
        return checks.within(name, self.edit.get(name, default), low, high)

    @property
    def tolerance(self) -> float:
        """In the channel's own units."""
        return self.number("tolerance", TOLERANCE, 0.0005, 0.2) * range_of(self.channel)

    @property
    def snap(self) -> bool:
        """Whether keys stay on whole frames."""
        return bool(self.edit.get("snap", True))

    @property
    def frames(self) -> int:
        """Frames of the channel."""
        return len(self.column.now)

    @property
    def other_side(self) -> str | None:
        """The channel of the other side, None where there is none."""
        return next((b if a == self.channel else a for a, b in SIDES if self.channel in (a, b)), None)

    def span(self) -> tuple[int, int]:
        """First and last frame of the edit, within the channel; raises InputError."""
        last = self.frames - 1
        first, end = int(self.number("first", 0, 0)), int(self.number("last", last, 0))
        if end < first or first > last:
            raise InputError(f"frames {first} to {end} are no stretch of these {last + 1} frames")
        return first, min(end, last)

    @property
    @abstractmethod
    def keys(self) -> Keys:
        """The keys to work on; raises InputError where there have to be some."""

    @abstractmethod
    def with_keys(self, keys: Keys) -> Made:
        """The channel with other keys."""

    @abstractmethod
    def with_curve(self, first: int, curve: Floats) -> Made:
        """The channel so that the result is `curve` (frames,) from frame `first` on."""

    @abstractmethod
    def said(self, frame: float, value: float | None) -> float | None:
        """What a new key at a frame must say for the result to be `value` there; for None what changes nothing, None where the curve of the
        other keys says it.
        """

    @abstractmethod
    def reduced(self) -> Made:
        """The channel as keys within the tolerance."""

    @abstractmethod
    def begun(self) -> Made:
        """Keys that change nothing yet, at both ends."""

    @abstractmethod
    def restored(self, first: int, last: int, raw: bool) -> Made:
        """A range as it was without the keys, or as it was captured."""


def corrected(keys: Keys, rest: float, first: int, offset: Floats, tolerance: float, frames: int) -> Keys:
    """Keys that are `offset` (frames,) from frame `first` on; before and behind it stays what they were, `rest` where there are none."""
    was = keys_at(keys, np.arange(-1.0, frames + 1)) if keys else np.full(frames + 2, rest)
    made = list(key_edits.reshape(keys, first, offset.astype(np.float32), tolerance))
    for frame in (first - 1, first + len(offset)):
        if not any(k.frame == frame for k in made) and 0 <= frame < frames:
            slope = float(was[frame + 2] - was[frame]) / 2
            made.append(Key(float(frame), float(was[frame + 1]), slope, slope, "free"))
    return key_edits.ordered(made)
