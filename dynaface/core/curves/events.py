"""Blinks and lip closures, found on the curves: what may not be rubbed out."""

from dataclasses import dataclass

import numpy as np
from numba import njit
from numpy.typing import NDArray

from dynaface.core.curves.channels import Channels
from dynaface.core.curves.opening import opening

# A blink: the lid comes down by at least this much and is up again, in at most LONGEST seconds from flank to flank.
DEPTH, LONGEST = 0.3, 0.7
# A lip closure: opening at most SHUT, with the lips apart by at least PARTED to both sides within REACH seconds, and by at
# least FALL more than where they are tightest: pressed lips that relax without parting are none, and neither is a mouth that
# hardly moves. It lasts HELD seconds at most.
SHUT, PARTED, FALL, REACH, HELD = 0.05, 0.06, 0.15, 0.25, 0.5
RISE = 0.08  # by which lips go apart after a closure before there can be another


@dataclass(frozen=True)
class Event:
    """Frames from first to last, with the extreme at `peak`; `height` is the value there."""

    first: int
    peak: int
    last: int
    height: float


def crest(curve: NDArray[np.float64], peak: int, level: float) -> tuple[int, int]:
    """First and last frame about the peak of curve (frames,) that lie above the level."""
    first = last = peak
    while first > 0 and curve[first - 1] > level:
        first -= 1
    while last < len(curve) - 1 and curve[last + 1] > level:
        last += 1
    return first, last


@njit(cache=True)
def _crests(curve, rise):  # type: ignore[no-untyped-def]
    out = [(0, 0.0, 0.0) for _ in range(0)]
    candidate = -1  # the highest frame since the last valley
    base = low = np.inf
    for f in range(curve.size):
        value = curve[f] if curve[f] == curve[f] else -1e9
        if candidate < 0:
            low = min(low, value)
            if value >= low + rise:
                candidate, base = f, low
        elif value > curve[candidate]:
            candidate = f
        elif value <= curve[candidate] - rise:
            out.append((candidate, base, value))
            candidate, low = -1, value
    return out


def crests(curve: NDArray[np.float64], rise: float) -> list[tuple[int, float, float]]:
    """Peaks of (frames,) that rise by at least `rise` over a valley before and after them; a gap is a deep valley.

    Each is (frame, lowest value since the peak before, value at which the fall was large enough).
    """
    return [] if not len(curve) else list(_crests(np.ascontiguousarray(curve, np.float64), rise))


def blinks(curve: NDArray[np.float32], rate: float, depth: float = DEPTH) -> list[Event]:
    """Blinks on one lid's (frames,) weight, in order; first and last are where a quarter of its depth is passed."""
    values = curve.astype(np.float64)
    out = []
    for peak, left, right in crests(values, depth):
        base = max(left, right, 0.0)
        around = int(LONGEST * rate)
        near = values[max(0, peak - around) : peak + around + 1]
        base = max(float(np.nanpercentile(near, 20)), 0.0) if np.isfinite(near).any() else base
        height = float(values[peak])
        if height - base < depth:
            continue
        first, last = crest(values, peak, base + 0.25 * (height - base))
        if last - first <= LONGEST * rate:
            out.append(Event(first, peak, last, height))
    return out


def closures(channels: Channels, ease: float = 1.0) -> list[Event]:
    """Lip closures where the jaw is known; `height` is the opening there (0 is shut). ease: share of PARTED and FALL that is enough."""
    rate = float(channels.rate)
    wide, unknown = opening(channels), np.isnan(channels.column("jawOpen"))
    out = []
    for peak, _, _ in crests(-wide, RISE * ease):
        if wide[peak] > SHUT or unknown[peak]:
            continue
        around = int(REACH * rate)
        shut = crest(-wide, peak, -SHUT) if wide[peak] < SHUT else (peak, peak)
        if shut[1] - shut[0] > HELD * rate:  # a rest, not a closure
            continue
        before, after = wide[max(0, shut[0] - around) : shut[0] + 1], wide[shut[1] : shut[1] + around + 1]
        parted = min(before.max(), after.max())
        if parted < ease * PARTED or parted - wide[peak] < ease * FALL:
            continue
        level = max(SHUT, wide[peak] + 0.25 * (parted - wide[peak]))
        first, last = crest(-wide, peak, -level)
        out.append(Event(first, peak, last, float(wide[peak])))
    return out
