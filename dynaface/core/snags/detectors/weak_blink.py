"""A blink that does not close."""

from dynaface.core.curves.events import blinks
from dynaface.core.snags.snag import Detector, Evidence, Snag, place, severity, step

LIMIT, CLOSED = 0.8, 0.97
QUICK = 0.35  # seconds: what takes longer is a look down, not a blink
LIDS = ("eyeBlinkLeft", "eyeBlinkRight")
TOGETHER = 0.15


def find(evidence: Evidence) -> list[Snag]:
    """One snag a blink that falls short in both eyes, or in one while the other closes."""
    if not evidence.has(*LIDS):
        return []
    found = [[b for b in blinks(evidence.channels.column(n), evidence.rate) if b.last - b.first <= QUICK * evidence.rate]
             for n in LIDS]  # fmt: skip
    out = []
    for blink in found[0]:
        other = next((o for o in found[1] if abs(o.peak - blink.peak) <= TOGETHER * evidence.rate), None)
        if other is None:
            continue
        heights = (blink.height, other.height)
        lowest = min(heights)
        if lowest >= LIMIT:
            continue
        first, last = min(blink.first, other.first) - 2, max(blink.last, other.last) + 2
        gains = {n: round(min(CLOSED / h, 4), 3) for n, h in zip(LIDS, heights, strict=True) if h < LIMIT}
        which = "The lids do" if len(gains) == 2 else f"The {'left' if LIDS[0] in gains else 'right'} lid does"
        out.append(Snag(
            "weak blink", "lids", tuple(gains), max(0, first), last, severity(1 - lowest, 1 - LIMIT, 0.7), lowest, LIMIT, "",
            f"{which} not close in this blink: the eye stays {1 - lowest:.0%} open.",
            (step("strength", [place(tuple(gains), first, last)], 3, gain=gains),),
        ))  # fmt: skip
    return out


DETECTOR = Detector("weak blink", "Blink that does not close", "Lids come down quickly and stop short.", find)
