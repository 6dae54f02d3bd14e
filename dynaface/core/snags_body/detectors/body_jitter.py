"""Body jitter: a stretch in which joints tremble from frame to frame."""

import numpy as np

from dynaface.core.body.rotations import continuous
from dynaface.core.snags.detectors.jitter_burst import trembling
from dynaface.core.snags.snag import Snag, merged, severity
from dynaface.core.snags_body.evidence import BodyDetector, BodyEvidence
from dynaface.core.tidy_body.turns import TO_DEGREES

WINDOW, SHORTEST = 0.35, 0.25  # seconds
LEAST, FACTOR, WORST = 0.25, 3.0, 3.0  # degrees; times the joint's own usual trembling; degrees


def find(evidence: BodyEvidence) -> list[Snag]:
    """One snag a group of joints and stretch."""
    size = evidence.within(WINDOW)
    turns = continuous(evidence.body.local)
    flat = trembling(turns.reshape(len(turns), -1) * TO_DEGREES, size).reshape(turns.shape)
    measured = np.linalg.norm(flat, axis=2)
    limit = np.maximum(FACTOR * np.median(measured, axis=0), LEAST)
    groups, out = np.array(evidence.groups), []
    for group in dict.fromkeys(evidence.groups):
        own = np.flatnonzero(groups == group)
        over = measured[:, own] > limit[own]
        for first, last in merged(over.any(axis=1), size // 2, evidence.within(SHORTEST)):
            joints = own[over[first : last + 1].any(axis=0)]
            worst = float(measured[first : last + 1, joints].max())
            out += evidence.snag(
                "body jitter", group, joints.tolist(), first, last, severity(worst, LEAST, WORST), worst,
                float(limit[joints].min()), "deg", f"{len(joints)} joint{'s tremble' if len(joints) > 1 else ' trembles'} by {worst:.1f}°.",
                (evidence.step("smooth", [group], first, last, 0.0, amount=0.55),),
            )  # fmt: skip
    return out


DETECTOR = BodyDetector("body jitter", "Body jitter", "Joints tremble from frame to frame.", find)
