"""Lip closure missed: the sound stops as on m, b or p, and the lips nearly meet."""

from dynaface.core.curves.events import SHUT, crest, crests
from dynaface.core.snags.snag import Detector, Evidence, Snag, place, severity, step

NARROWING = 0.07  # by which lips come nearer and part again
NEARLY = 0.12  # opening up to which lips can have been meant to meet
DIP = 8.0  # dB by which the voice falls there, against the loudest beside it
AROUND = 0.14  # seconds
LONGEST = 0.4  # seconds of a closure
HALF = 8  # frames to either side of the narrowest one that a mend holds shut at most
OPENERS = (
    "jawOpen",
    "mouthLowerDownLeft",
    "mouthLowerDownRight",
    "mouthUpperUpLeft",
    "mouthUpperUpRight",
    "mouthFunnel",
)
CLOSERS = ("mouthPressLeft", "mouthPressRight")


def find(evidence: Evidence) -> list[Snag]:
    """One snag a moment."""
    loud = evidence.loudness
    if loud is None or not evidence.has("jawOpen"):
        return []
    wide = evidence.opening
    around = evidence.frames(AROUND)
    reached = -1  # the last frame of the closure before: one closure has one snag
    out = []
    for at, _, _ in crests(-wide, NARROWING):
        lowest = float(wide[at])
        if not SHUT < lowest <= NEARLY:
            continue
        low, high = crest(-wide, at, -NEARLY)
        if low <= reached or high - low > LONGEST * evidence.rate:
            continue
        reached = high
        here = loud[max(0, low - 1) : high + 2].min()
        before, after = loud[max(0, low - around) : low + 1].max(), loud[high : high + around + 1].max()
        if min(before, after) - here < DIP:
            continue
        openers = tuple(n for n in OPENERS if n in evidence.channels.names)
        closers = {n: 0.25 for n in CLOSERS if n in evidence.channels.names}
        first, last = max(low, at - HALF), min(high, at + HALF)
        out.append(Snag(
            "missed closure", "lips", (*openers, *closers), first, last, severity(lowest, SHUT, NEARLY), lowest, SHUT, "",
            "The voice stops as on m, b or p, but the lips do not meet.",
            (step("strength", [place((*openers, *closers), first, last)], evidence.frames(0.05),
                  gain=dict.fromkeys(openers, 0.15), offset=closers),),
        ))  # fmt: skip
    return out


DETECTOR = Detector(
    "missed closure", "Lip closure missed", "The voice stops and the lips come close but stay open.", find, ("sound",)
)
