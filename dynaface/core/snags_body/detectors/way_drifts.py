"""Way drifts: where feet stand, the hips go on drifting, always the same way; or the ground rises or sinks."""

import numpy as np

from dynaface.core.contact.drift import drift_of
from dynaface.core.snags.snag import Snag, severity
from dynaface.core.snags_body.evidence import BodyDetector, BodyEvidence

LIMIT, WORST = 0.06, 0.5  # metres over the take
HEIGHT = 0.04


def find(evidence: BodyEvidence) -> list[Snag]:
    """One snag for the take."""
    drift = drift_of(evidence.body)
    if drift is None:
        return []
    level, height = float(np.ptp(drift[:, [0, 2]], axis=0).max()), float(np.ptp(drift[:, 1]))
    if level <= LIMIT and height <= HEIGHT:
        return []
    far, limit = max((level, LIMIT), (height, HEIGHT), key=lambda p: p[0] / p[1])
    words = (
        f"Feet that stand drift by {level * 100:.0f} cm"
        if far == level
        else f"The ground goes {height * 100:.0f} cm up or down"
    )
    last = evidence.body.frames - 1
    return evidence.snag(
        "way drifts", "hips", [0], 0, last, severity(far, limit, WORST), far * 100, limit * 100, "cm", f"{words} over the take.",
        ({"step": "steady the way", "groups": ["hips"]},),
    )  # fmt: skip


DETECTOR = BodyDetector("way drifts", "Way drifts", "Feet that stand drift, always the same way.", find)
