"""Eyes that do not blink for long."""

from dynaface.core.curves.events import blinks
from dynaface.core.snags.snag import Detector, Evidence, Snag, severity, step

LIMIT = 12.0  # seconds; people at talk blink about every four
EVERY = 4.2
LIDS = ("eyeBlinkLeft", "eyeBlinkRight")


def find(evidence: Evidence) -> list[Snag]:
    """One snag a stretch without a blink."""
    present = [n for n in LIDS if n in evidence.channels.names]
    if not present:
        return []
    moments = sorted({b.peak for n in present for b in blinks(evidence.channels.column(n), evidence.rate)})
    edges = [0, *moments, evidence.channels.frames - 1]
    out = []
    for first, last in zip(edges, edges[1:], strict=False):
        seconds = (last - first) / evidence.rate
        if seconds <= LIMIT:
            continue
        count = max(1, int(seconds / EVERY))
        # Not quite even, as people blink: every other one comes a little early.
        frames = [int(first + (k + (0.5 if k % 2 else 0.42)) * (last - first) / count) for k in range(count)]
        out.append(Snag(
            "no blink", "lids", tuple(present), first, last, severity(seconds, LIMIT, 40), seconds, LIMIT, "s",
            f"The eyes do not blink for {seconds:.0f} s.", (step("put in blinks", [], frames=frames),),
        ))  # fmt: skip
    return out


DETECTOR = Detector("no blink", "No blink for long", "Longer than people go without blinking.", find)
