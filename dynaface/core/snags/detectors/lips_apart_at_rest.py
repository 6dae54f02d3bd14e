"""Lips apart at rest: the mouth is still, and a little open."""

import numpy as np
from scipy.ndimage import maximum_filter1d, minimum_filter1d, uniform_filter1d

from dynaface.core.snags.snag import Detector, Evidence, Snag, merged, place, severity, step

LOWEST, HIGHEST = 0.05, 0.22
STILL, SHORTEST = 0.03, 0.5  # opening may change by this much; seconds


def find(evidence: Evidence) -> list[Snag]:
    """One snag a stretch."""
    if not evidence.has("jawOpen"):
        return []
    wide = uniform_filter1d(evidence.opening, evidence.frames(0.1), mode="nearest")
    size = evidence.frames(0.35)
    calm = maximum_filter1d(wide, size, mode="nearest") - minimum_filter1d(wide, size, mode="nearest") < STILL
    if evidence.loudness is not None:
        calm &= evidence.loudness < -25
    apart = calm & (wide > LOWEST) & (wide < HIGHEST)
    out = []
    for first, last in merged(apart, evidence.frames(0.1), evidence.frames(SHORTEST) - size):
        first, last = max(0, first - size // 2), min(len(wide) - 1, last + size // 2)
        if last - first < evidence.frames(SHORTEST):
            continue
        measured = float(np.median(wide[first : last + 1]))
        jaw = float(np.nanmedian(evidence.column("jawOpen")[first : last + 1]))
        shift = -round(min(measured, jaw), 4)
        out.append(Snag(
            "lips apart at rest", "lips", ("jawOpen",), first, last, severity(measured, LOWEST, 0.2), measured, LOWEST, "",
            "The mouth rests, but the lips do not touch.",
            (step("strength", [place(("jawOpen",), first, last)], evidence.frames(0.15), offset={"jawOpen": shift}),),
        ))  # fmt: skip
    return out


DETECTOR = Detector("lips apart at rest", "Lips apart at rest", "A still mouth that is a little open.", find)
