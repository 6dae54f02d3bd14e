"""Body spike: a joint, or the hips, is elsewhere for a few frames."""

import numpy as np

from dynaface.core.snags.snag import Snag, merged, severity
from dynaface.core.snags_body.evidence import BodyDetector, BodyEvidence
from dynaface.core.tidy_body.spikes import wild_turns, wild_way

HALF = 0.035  # seconds to either side that it is compared with
SPREAD, LEAST, WAY = 6.0, 5.0, 0.035  # times the neighbours' spread, degrees, metres


def find(evidence: BodyEvidence) -> list[Snag]:
    """One snag a group of joints and moment."""
    half = max(evidence.within(HALF), 2)
    wild = wild_turns(evidence.body, half, SPREAD, LEAST)
    jumps = wild_way(evidence.body, half, SPREAD, WAY)
    groups, out = np.array(evidence.groups), []
    for group in dict.fromkeys(evidence.groups):
        own = np.flatnonzero(groups == group)
        worst = wild[:, own].max(axis=1)
        if group == "hips":
            worst = np.maximum(worst, jumps)
        for first, last in merged(worst > 1, 2):
            off = float(worst[first : last + 1].max())
            joints = own[(wild[first : last + 1, own] > 1).any(axis=0)]
            words = f"The {evidence.body.skeleton.names[joints[0]]} jumps" if len(joints) else "The hips jump"
            out += evidence.snag(
                "body spike", group, joints.tolist(), first, last, severity(off, 1, 8), off, 1.0, "×",
                f"{words} away for {last - first + 1} frame{'s' if last > first else ''} and back.",
                (evidence.step("remove spikes", [group], first, last, 0.06, half=min(half + 1, 12), least=LEAST - 1),),
            )  # fmt: skip
    return out


DETECTOR = BodyDetector("body spike", "Body spike", "A joint, or the hips, is elsewhere for a few frames.", find)
