"""Joints lost: a stretch in which joints stand still to the last digit while others move."""

import numpy as np

from dynaface.core.snags.snag import Snag, merged, severity
from dynaface.core.snags_body.evidence import BodyDetector, BodyEvidence
from dynaface.core.tidy_body.frozen import frozen

LEAST = 0.1  # seconds of stillness from which on it is one
WORST = 1.5


def find(evidence: BodyEvidence) -> list[Snag]:
    """One snag a group of joints and stretch."""
    least = evidence.within(LEAST)
    flags, groups = frozen(evidence.body, least), np.array(evidence.groups)
    out: list[Snag] = []
    for group in dict.fromkeys(evidence.groups):
        own = np.flatnonzero(groups == group)
        for first, last in merged(flags[:, own].any(axis=1), 2):
            joints = own[flags[first : last + 1, own].any(axis=0)]
            seconds = (last - first + 1) / float(evidence.body.rate)
            out += evidence.snag(
                "joints lost", group, joints.tolist(), first, last, severity(seconds, LEAST, WORST), seconds, LEAST, "s",
                f"{len(joints)} joint{'s stand' if len(joints) > 1 else ' stands'} still for {seconds:.2f} s while others move.",
                (evidence.step("fill gaps", [group], first, last, 0.05, shortest=max(least // 2, 2)),),
            )  # fmt: skip
    return out


DETECTOR = BodyDetector("joints lost", "Joints lost", "Joints stand still to the last digit while others move.", find)
