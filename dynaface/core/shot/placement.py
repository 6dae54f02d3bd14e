"""A clip placed in a shot: which moment of its source is seen at which moment of the shot."""

from dataclasses import dataclass, field, replace
from fractions import Fraction
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from dynaface.core import checks
from dynaface.core.curves.keys import key_table
from dynaface.core.errors import InputError
from dynaface.core.identity import content_key
from dynaface.core.layers.weight import Amounts, Weight
from dynaface.core.numeric.ease import eased

SLOWEST, QUICKEST = Fraction(1, 4), Fraction(4)
MOST_REPEATS, MOST_FADE = 100, 60
TIMES = ("start", "first", "last", "speed", "repeats", "seam", "fade_in", "fade_out")
NEAR = 1e-6  # of a frame: rounding of fractions, not a place between two frames


@dataclass(frozen=True)
class Placement:
    """Times are exact seconds. start: in the shot; first, last: of the source from its first frame on; repeats: how often the
    stretch is seen, parts of one too; seam: over which each pass goes over into the next one; fade_in, fade_out: from and to what
    lies beneath it; lane: higher ones lie over lower ones.
    """

    start: Fraction
    first: Fraction
    last: Fraction
    speed: Fraction = Fraction(1)
    repeats: Fraction = Fraction(1)
    seam: Fraction = Fraction(0)
    fade_in: Fraction = Fraction(0)
    fade_out: Fraction = Fraction(0)
    lane: int = 0
    mute: bool = False
    weight: Weight = field(default_factory=Weight)

    def __post_init__(self) -> None:
        if not 0 <= self.first < self.last:
            raise InputError(f"a clip goes from {float(self.first):g} to {float(self.last):g} s of its source")
        checks.within("speed", float(self.speed), float(SLOWEST), float(QUICKEST))
        if not 0 < self.repeats <= MOST_REPEATS:
            raise InputError(f"repeats is {float(self.repeats):g}; it must be above 0 and at most {MOST_REPEATS}")
        for name in ("seam", "fade_in", "fade_out"):
            checks.within(name.replace("_", " "), float(getattr(self, name)), 0, MOST_FADE)

    @cached_property
    def key(self) -> str:
        """Equal for equal placements; worked out once, as a shot asks for many of them at each drag."""
        times = (getattr(self, name) for name in TIMES)
        return content_key(*times, self.lane, self.mute, self.weight.value, key_table(self.weight.keys))

    @property
    def seconds(self) -> Fraction:
        """How long it lasts in the shot."""
        return (self.last - self.first) / self.speed * self.repeats

    @property
    def stop(self) -> Fraction:
        """Where it ends in the shot."""
        return self.start + self.seconds

    @property
    def passes(self) -> list[tuple[Fraction, Fraction, Fraction]]:
        """(start in the shot, first, last second of the source) of each pass, the last maybe a part of one."""
        stretch = (self.last - self.first) / self.speed
        out = []
        left, start = self.repeats, self.start
        while left > 0:
            share = min(left, Fraction(1))
            out.append((start, self.first, self.first + (self.last - self.first) * share))
            left, start = left - share, start + stretch * share
        return out

    def source_at(self, at: NDArray[np.float64]) -> tuple[NDArray[np.float64], NDArray[np.int64]]:
        """At seconds of the shot (n,), held at both ends: seconds of the source (n,), and the number of the pass (n,)."""
        stretch = float((self.last - self.first) / self.speed)
        inside = np.clip(at - float(self.start), 0, float(self.seconds))
        passes = inside / stretch
        whole = np.where(np.abs(passes - np.round(passes)) < 1e-9, np.round(passes), np.floor(passes))
        # Its very end is the end of the last pass, not the beginning of one that is not there.
        whole = np.minimum(whole, np.ceil(float(self.repeats) - 1e-9) - 1)
        return float(self.first) + (inside - whole * stretch) * float(self.speed), whole.astype(np.int64)

    def split(self, at: Fraction) -> tuple["Placement", "Placement"]:
        """The two halves about a moment of the shot, which together show what it showed; raises InputError outside of it. Parts of a
        pass stay parts: the second half begins in the middle of its source's stretch only where there is one pass.
        """
        if not self.start < at < self.stop:
            raise InputError(f"{float(at):g} s is not within the clip")
        stretch = (self.last - self.first) / self.speed
        before = at - self.start
        if self.repeats == 1:
            middle = self.first + before * self.speed
            return (replace(self, last=middle, fade_out=Fraction(0)),
                    replace(self, start=at, first=middle, fade_in=Fraction(0)))  # fmt: skip
        passes = before / stretch
        if passes.denominator != 1:
            raise InputError("a repeated clip can be split between two passes only", hint="Split it where a pass ends")
        return (replace(self, repeats=passes, fade_out=Fraction(0)),
                replace(self, start=at, repeats=self.repeats - passes, fade_in=Fraction(0)))  # fmt: skip


def presence(placed: Placement, at: NDArray[np.float64], fade_in: float, fade_out: float) -> Amounts:
    """(n,) 0..1 of how far a placement lies over what is beneath at seconds of the shot (n,), 0 outside of it."""
    inside = (at >= float(placed.start) - 1e-9) & (at < float(placed.stop) - 1e-9)
    out = inside.astype(np.float64)
    if fade_in > 0:
        out *= eased((at - float(placed.start)) / fade_in)
    if fade_out > 0:
        out *= eased((float(placed.stop) - at) / fade_out)
    return out
