"""Frame rates as fractions."""

import re
from fractions import Fraction

import numpy as np
from numpy.typing import NDArray

from dynaface.core.errors import InputError

STANDARD_RATES: tuple[Fraction, ...] = tuple(
    Fraction(n, d)
    for n, d in (
        (15, 1), (24000, 1001), (24, 1), (25, 1), (30000, 1001), (30, 1), (48000, 1001), (48, 1), (50, 1), (60000, 1001),
        (60, 1), (90, 1), (100, 1), (120000, 1001), (120, 1), (240, 1),
    )
)  # fmt: skip


# Bounded before any number is made of it: "1e99999999" is a short text and an endless integer.
_RATE = re.compile(r"\s*\+?(\d{1,6})(\.\d{0,12}|/\d{1,6})?\s*", re.ASCII)


def parse_rate(text: str | float | Fraction) -> Fraction:
    """A rate in frames per second from "60", "29.97", "30000/1001" or a number; 1..1000, else InputError."""
    try:
        rate = _fraction(text)
    except (ValueError, ZeroDivisionError):
        raise InputError(f"the frame rate is {text!r:.80}; write it as 60, 29.97 or 30000/1001") from None
    for standard in STANDARD_RATES:
        if abs(float(standard) - float(rate)) < 0.006 and standard.denominator != 1:
            rate = standard
    if not 1 <= rate <= 1000:
        raise InputError(f"the frame rate is {float(rate):g}; it must be in 1..1000 frames per second")
    return rate


def _fraction(given: object) -> Fraction:
    if isinstance(given, str):
        if not _RATE.fullmatch(given):
            raise ValueError
        return Fraction(given.strip())
    if isinstance(given, bool) or not isinstance(given, int | float | Fraction) or not 0 < given < 1e6:
        raise ValueError
    return Fraction(given).limit_denominator(100000)


def format_rate(rate: Fraction) -> str:
    """ "60" or "30000/1001"."""
    return str(rate.numerator) if rate.denominator == 1 else f"{rate.numerator}/{rate.denominator}"


def nominal_rate(times: NDArray[np.float64]) -> Fraction:
    """The standard rate nearest to the median step of the time stamps (rows,) in seconds; raises InputError without two
    that differ."""
    steps = np.diff(np.unique(times))
    if steps.size == 0:
        raise InputError(
            "there are fewer than two different time stamps, so there is no frame rate",
            hint="Choose another time column, or none and a rate",
        )
    median = float(np.median(steps))
    if not 1e-6 < median < 1e6:
        raise InputError(
            f"the time stamps are {median:g} s apart, which is no frame rate",
            hint="Choose another time column or unit, or none and a rate",
        )
    # Span over frames counted, lost ones included: jitter and losses hardly touch it.
    counted = np.maximum(np.round(steps[steps > 0.25 * median] / median), 1).sum()
    mean = float(counted) / float(steps.sum())
    # Whole rates win over their 1000/1001 neighbours unless the span clearly says otherwise.
    best = min(STANDARD_RATES, key=lambda r: abs(np.log(float(r) / mean)) + (4e-4 if r.denominator != 1 else 0))
    return best if abs(float(best) / mean - 1) <= 0.2 else Fraction(round(mean * 100), 100)
