"""Spike: a single wild frame, or two."""

import numpy as np

from dynaface.core.curves.medians import moving_median
from dynaface.core.shapes.regions import region_of
from dynaface.core.snags.snag import Detector, Evidence, Snag, merged, place, severity, step

LIMIT, LEAST = 6.0, 0.07  # times the spread of the neighbours, and in shape units
LONGEST = 2


def find(evidence: Evidence) -> list[Snag]:
    """One snag a channel and spike."""
    scaled = evidence.scaled.astype(np.float32)
    middle, spread = moving_median(scaled, max(2, round(3 * evidence.rate / 60)))
    limit = np.maximum(LIMIT * np.maximum(spread, evidence.noise[None, :]), LEAST)
    with np.errstate(invalid="ignore"):
        off = np.abs(scaled - middle)
        wild = off > limit
    out = []
    for column in np.flatnonzero(wild.any(axis=0)):
        channel = (evidence.channels.names[column],)
        for first, last in merged(wild[:, column], 0):
            if (
                last - first + 1 > LONGEST
                or last - first + 3 > len(scaled)
                or not _returns(scaled[:, column], first, last)
            ):
                continue
            worst = float(off[first : last + 1, column].max())
            out.append(Snag(
                "spike", region_of(channel[0]), channel, first, last, severity(worst, LEAST, 0.6), worst,
                float(limit[first, column]), "", f"{channel[0]} jumps away for {_words(last - first + 1)} and comes back.",
                (step("bridge over", [place(channel, first, last)]),),
            ))  # fmt: skip
    return out


def _returns(curve: np.ndarray, first: int, last: int) -> bool:
    """Whether the curve goes on as it was: the frames beside the spike are closer to each other than to it."""
    before = curve[first - 1] if first > 0 else curve[last + 1]
    after = curve[last + 1] if last < len(curve) - 1 else before
    away = np.abs(curve[first : last + 1] - 0.5 * (before + after)).min()
    return bool(away > 1.5 * abs(after - before))


def _words(frames: int) -> str:
    return "one frame" if frames == 1 else f"{frames} frames"


DETECTOR = Detector("spike", "Spike", "A frame or two far off what lies before and after.", find)
