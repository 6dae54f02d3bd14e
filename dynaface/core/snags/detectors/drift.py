"""Drift of neutral: the level to which channels return is not the same at both ends of the take."""

import numpy as np

from dynaface.core.curves.baseline import drift_of
from dynaface.core.shapes.regions import REGION, REGIONS
from dynaface.core.shapes.standard import ANGLES
from dynaface.core.snags.snag import Detector, Evidence, Snag, severity, step

LIMIT = 0.1


def find(evidence: Evidence) -> list[Snag]:
    """One snag a region, over the whole take."""
    drift = drift_of(evidence.channels.values, evidence.rate)
    reach = drift.max(axis=0, initial=0.0)
    names = np.array(evidence.channels.names)
    out = []
    for region in REGIONS:
        own = np.array([REGION[n] == region and n not in ANGLES for n in names])
        own &= reach > LIMIT
        if not own.any():
            continue
        channels = tuple(names[own].tolist())
        worst = float(reach[own].max())
        out.append(Snag(
            "drift", region, channels, 0, evidence.channels.frames - 1, severity(worst, LIMIT, 0.3), worst, LIMIT, "",
            f"The rest of the {region} moves by {worst:.2f} over the take.",
            (step("re-zero", [{"channels": list(channels), "first": None, "last": None}]),),
        ))  # fmt: skip
    return out


DETECTOR = Detector("drift", "Drift of neutral", "The resting level slides over the take.", find)
