"""Lopsided: one side does much more than the other for a while, where faces do the same on both."""

import numpy as np
from scipy.ndimage import uniform_filter1d

from dynaface.core.shapes.pairs import SIDES
from dynaface.core.shapes.regions import region_of
from dynaface.core.snags.snag import Detector, Evidence, Snag, merged, place, severity, step

LIMIT, SHARE = 0.18, 0.5  # difference of the sides, and as a share of the stronger one
SHORTEST = 0.4


def find(evidence: Evidence) -> list[Snag]:
    """One snag a pair of shapes and stretch; lids and eyes have detectors of their own."""
    out = []
    for left, right in SIDES:
        if left.startswith(("eyeBlink", "eyeLook", "gaze")) or not evidence.has(left, right):
            continue
        pair = np.nan_to_num(np.stack([evidence.column(left), evidence.column(right)], axis=1))
        slow = uniform_filter1d(pair, evidence.frames(0.2), axis=0, mode="nearest")
        apart, most = np.abs(slow[:, 0] - slow[:, 1]), slow.max(axis=1)
        for first, last in merged(
            (apart > LIMIT) & (apart > SHARE * most), evidence.frames(0.2), evidence.frames(SHORTEST)
        ):
            worst = float(apart[first : last + 1].max())
            side = "left" if slow[first : last + 1, 0].mean() > slow[first : last + 1, 1].mean() else "right"
            out.append(Snag(
                "lopsided", region_of(left), (left, right), first, last, severity(worst, LIMIT, 0.7), worst, LIMIT, "",
                f"{left.removesuffix('Left')} is much stronger on the {side} side.",
                (step("pair sides", [place((left, right), first, last)], evidence.frames(0.1), way="average"),),
            ))  # fmt: skip
    return sorted(out, key=lambda s: s.first)


DETECTOR = Detector(
    "lopsided", "Lopsided", "One side of the face does much more than the other. It may be meant.", find
)
