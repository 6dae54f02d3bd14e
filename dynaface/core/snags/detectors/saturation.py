"""Saturation: a curve that is cut off flat at its limit."""

import numpy as np

from dynaface.core.shapes.regions import region_of
from dynaface.core.snags.snag import Detector, Evidence, Snag, merged, place, severity, step

LIMIT, SHORTEST = 0.995, 0.1


def find(evidence: Evidence) -> list[Snag]:
    """One snag a channel and stretch. Lids may well be shut: they are passed over."""
    values = evidence.channels.values
    still = np.abs(np.diff(values, axis=0)) < 1e-5
    standing = still.mean(axis=1) > 0.98  # the whole face stands: that is lost tracking
    out = []
    for column, name in enumerate(evidence.channels.names):
        if name.startswith(("eyeBlink", "head", "gaze")):
            continue
        flat = (values[:-1, column] >= LIMIT) & still[:, column] & ~standing
        for first, last in merged(flat, 0, evidence.frames(SHORTEST)):
            last += 1
            seconds = (last - first + 1) / evidence.rate
            edge = evidence.frames(0.02)
            out.append(Snag(
                "saturation", region_of(name), (name,), first, last, severity(seconds, 0.05, 0.8), seconds, SHORTEST, "s",
                f"{name} is cut off flat at its limit for {seconds:.2f} s: its crest is lost.",
                (step("bridge over", [place((name,), first + edge, last - edge)], 1),
                 step("limit range", [place((name,), first - 20, last + 20)], 10, knee=0.25)),
            ))  # fmt: skip
    return out


DETECTOR = Detector("saturation", "Cut off at the limit", "A weight that stays exactly at its limit.", find)
