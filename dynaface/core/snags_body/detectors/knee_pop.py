"""Knee pop: a leg that is nearly straight snaps straight, or bends, within a frame or two."""

import numpy as np

from dynaface.core.contact.feet import feet_of, has_feet
from dynaface.core.snags.snag import Snag, merged, severity
from dynaface.core.snags_body.evidence import BodyDetector, BodyEvidence

LIMIT, FACTOR, WORST = 4500.0, 8.0, 30000.0  # degrees a second squared; times the usual of the leg
STRAIGHT = 25.0  # degrees of bending below which a leg is nearly straight


def find(evidence: BodyEvidence) -> list[Snag]:
    """One snag a knee and moment, on the character as it is joined."""
    shown = evidence.shown
    if shown is None or not has_feet(shown.skeleton) or len(shown.local) < 5:
        return []
    places = shown.skeleton.pose(shown.local, shown.root)[1]
    out = []
    for foot in feet_of(shown.skeleton):
        thigh, shin = places[:, foot.shin] - places[:, foot.thigh], places[:, foot.ankle] - places[:, foot.shin]
        lengths = np.linalg.norm(thigh, axis=1) * np.linalg.norm(shin, axis=1)
        bent = np.degrees(np.arccos(np.clip(np.sum(thigh * shin, axis=1) / np.maximum(lengths, 1e-9), -1, 1)))
        jerk = np.zeros(len(bent))
        jerk[1:-1] = np.abs(np.diff(bent, n=2)) * evidence.rate**2
        limit = max(FACTOR * float(np.median(jerk)), LIMIT)
        for first, last in merged((jerk > limit) & (bent < STRAIGHT), 3):
            worst = float(jerk[first : last + 1].max())
            out.append(Snag(
                "knee pop", f"leg{foot.side}", (shown.skeleton.names[foot.shin],), first, last, severity(worst, limit, WORST), worst,
                limit, "deg/s²", f"The {foot.side.lower()} knee snaps where the leg is nearly straight.",
            ))  # fmt: skip
    return out


DETECTOR = BodyDetector("knee pop", "Knee pop", "A nearly straight leg snaps within a frame or two.", find)
