"""Floating head: the head comes away from the body that carries it."""

import numpy as np

from dynaface.core.body.rotations import Array
from dynaface.core.snags.snag import Snag, merged, severity
from dynaface.core.snags_body.evidence import BodyDetector, BodyEvidence, Shown

LIMIT, WORST = 0.01, 0.1  # metres


def find(evidence: BodyEvidence) -> list[Snag]:
    """One snag a stretch in which neck and head slide, or stay behind where a body goes that does not carry them."""
    shown = evidence.shown
    if shown is None or not shown.chain:
        return []
    off = _away(shown)
    names = tuple(shown.skeleton.names[j] for j in shown.chain)
    out = []
    for first, last in merged(off > LIMIT, round(0.2 * evidence.rate)):
        worst = float(off[first : last + 1].max())
        out.append(Snag(
            "floating head", "head", names, first, last, severity(worst, LIMIT, WORST), worst * 100, LIMIT * 100, "cm",
            f"The head is {worst * 100:.1f} cm off its body: in the rig it should hang on the body's neck, and keep its place there.",
        ))  # fmt: skip
    return out


def _away(shown: Shown) -> Array:
    """(frames,) metres that the head is off where the body would carry it."""
    names = [shown.skeleton.names[j] for j in shown.chain]
    slides = [np.linalg.norm(shown.shifts[n], axis=1) for n in names if n in shown.shifts]
    off = np.sum(slides, axis=0) if slides else np.zeros(len(shown.root))
    if shown.root_joint and shown.skeleton.top(names[0]) != shown.root_joint:
        off = off + np.linalg.norm(shown.root - shown.root[:1], axis=1)
    return np.asarray(off)


DETECTOR = BodyDetector("floating head", "Floating head", "The head comes away from the body.", find)
