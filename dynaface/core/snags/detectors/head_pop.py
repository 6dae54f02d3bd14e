"""Head pop: the head is elsewhere from one frame to the next."""

import numpy as np

from dynaface.core.shapes.standard import HEAD_ANGLES
from dynaface.core.snags.snag import Detector, Evidence, Snag, merged, place, severity, step

LIMIT = 1.6  # degrees in one frame at 60 a second beyond what the head did before and after
FACTOR = 6.0  # times the take's own usual change of speed


def find(evidence: Evidence) -> list[Snag]:
    """One snag a jump, for the angles that jump."""
    names = [n for n in HEAD_ANGLES if n in evidence.channels.names]
    if not names:
        return []
    values = np.stack([evidence.column(n) for n in names], axis=1)
    move = np.nan_to_num(np.diff(values, axis=0))
    before, after = np.roll(move, 2, axis=0), np.roll(move, -2, axis=0)
    before[:2], after[-2:] = 0, 0
    beyond = np.abs(move - 0.5 * (before + after))
    usual = np.median(beyond, axis=0)
    limit = np.maximum(FACTOR * usual, LIMIT * 60 / evidence.rate)
    out = []
    # A jump also shows in what comes two frames before and after it: the frame in which it is largest is the one.
    for low, high in merged((beyond > limit).any(axis=1), 3):
        first = last = low + int(np.argmax((beyond / limit)[low : high + 1].max(axis=1)))
        jump = np.abs(move[first])
        own = beyond[first] > limit
        channels = tuple(n for n, o in zip(names, own, strict=True) if o)
        worst = float(beyond[first].max())
        edge = evidence.frames(0.06)
        out.append(Snag(
            "head pop", "head", channels, first, last + 1, severity(worst, LIMIT, 10), float(jump[own].max()),
            float(limit.min()), "deg", f"The head jumps by {jump[own].max():.1f}° in a frame.",
            (step("bridge over", [place(channels, first + 1 - edge, last + edge)], 1),),
        ))  # fmt: skip
    return out


DETECTOR = Detector("head pop", "Head pop", "The head turns farther in a frame than it was turning.", find)
