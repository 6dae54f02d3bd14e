"""Beyond its limit: a knee bends forward, or a joint turns farther than a body can."""

import numpy as np

from dynaface.core.snags.snag import Snag, merged, severity
from dynaface.core.snags_body.evidence import BodyDetector, BodyEvidence
from dynaface.core.tidy_body.limits import beyond_limits

LIMIT, WORST = 2.0, 40.0  # degrees beyond


def find(evidence: BodyEvidence) -> list[Snag]:
    """One snag a joint and stretch."""
    out: list[Snag] = []
    for joint, back in beyond_limits(evidence.body).items():
        over = np.degrees(np.linalg.norm(back, axis=1))
        for first, last in merged(over > LIMIT, evidence.within(0.1)):
            far, group = float(over[first : last + 1].max()), evidence.groups[joint]
            out += evidence.snag(
                "beyond limit", group, [joint], first, last, severity(far, LIMIT, WORST), far, LIMIT, "deg",
                f"The {evidence.body.skeleton.names[joint]} turns {far:.0f}° farther than a body can.",
                (evidence.step("hold in limits", [group], first, last, 0.1),),
            )  # fmt: skip
    return out


DETECTOR = BodyDetector("beyond limit", "Beyond its limit", "A joint turns farther than a body can.", find)
