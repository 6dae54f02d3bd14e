"""Through the ground: a foot is under the ground on which the others stand."""

import numpy as np

from dynaface.core.snags.snag import Snag, merged, severity
from dynaface.core.snags_body.evidence import BodyDetector, BodyEvidence, setting

LIMIT, WORST = 0.025, 0.12  # metres


def find(evidence: BodyEvidence) -> list[Snag]:
    """One snag a foot and stretch; none where the join lifts feet."""
    if evidence.settings.feet or not evidence.contacts:
        return []
    floor = evidence.contacts[0].floor
    out: list[Snag] = []
    for foot, heel, ball in evidence.places:
        under = floor - np.minimum(heel[:, 1], ball[:, 1] - foot.clear)
        for first, last in merged(under > LIMIT, evidence.within(0.1)):
            deep = float(under[first : last + 1].max())
            out += evidence.snag(
                "through the ground", f"leg{foot.side}", [foot.ankle], first, last, severity(deep, LIMIT, WORST), deep * 100,
                LIMIT * 100, "cm", f"The {foot.side.lower()} foot is {deep * 100:.1f} cm under the ground.",
                (setting("feet", True),),
            )  # fmt: skip
    return out


DETECTOR = BodyDetector("through the ground", "Through the ground", "A foot is under the ground.", find)
