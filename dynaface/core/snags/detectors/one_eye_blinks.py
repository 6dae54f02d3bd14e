"""A blink in one eye only."""

import numpy as np

from dynaface.core.curves.events import blinks
from dynaface.core.snags.snag import Detector, Evidence, Snag, place, severity, step

HEIGHT, SHARE = 0.5, 0.4  # of a blink, and what the other lid does of it at most
LIDS = ("eyeBlinkLeft", "eyeBlinkRight")
AROUND = 0.12


def find(evidence: Evidence) -> list[Snag]:
    """One snag a blink."""
    if not evidence.has(*LIDS):
        return []
    out = []
    for own, other, way in ((LIDS[0], LIDS[1], "left leads"), (LIDS[1], LIDS[0], "right leads")):
        theirs = evidence.column(other)
        for blink in blinks(evidence.channels.column(own), evidence.rate):
            if blink.height < HEIGHT:
                continue
            margin = evidence.frames(AROUND)
            near = theirs[max(0, blink.first - margin) : blink.last + margin + 1]
            rise = float(np.nanmax(near) - np.nanmin(near)) if np.isfinite(near).any() else 0.0
            share = rise / blink.height
            if share >= SHARE:
                continue
            first, last = max(0, blink.first - 3), blink.last + 3
            side = "left" if own == LIDS[0] else "right"
            out.append(Snag(
                "one eye blinks", "lids", LIDS, first, last, severity(1 - share, 1 - SHARE, 1.0), share, SHARE, "",
                f"Only the {side} eye blinks.", (step("pair sides", [place(LIDS, first, last)], 4, way=way),),
            ))  # fmt: skip
    return sorted(out, key=lambda s: s.first)


DETECTOR = Detector(
    "one eye blinks", "Blink in one eye", "One lid blinks and the other does not. A wink is one, too.", find
)
