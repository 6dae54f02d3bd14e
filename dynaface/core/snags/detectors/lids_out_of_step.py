"""Lids out of step: both eyes blink, but not at the same time."""

import numpy as np

from dynaface.core.curves.events import Event, blinks
from dynaface.core.snags.snag import Detector, Evidence, Snag, place, severity, step

LIMIT = 0.03  # seconds; lids of one face close within a frame or so of each other
TOGETHER = 0.2  # seconds within which two closings are one blink
LIDS = ("eyeBlinkLeft", "eyeBlinkRight")


def _flank(curve: np.ndarray, event: Event) -> float:
    """The moment, in frames, at which the lid is halfway between both quarter-depth crossings."""
    level = curve[event.peak] * 0.5
    down = event.peak
    while down > 0 and curve[down] > level:
        down -= 1
    rise = curve[down + 1] - curve[down]
    return down + float((level - curve[down]) / rise) if rise > 1e-9 else float(down)


def _truer(evidence: Evidence, first: int, last: int) -> str:
    """The lid to follow: the one whose motion the ring of muscle about both eyes answers sooner and more closely."""
    span = slice(max(0, first - 4), last + 8)
    ring = sum(
        evidence.column(f"eyeSquint{s}")[span] + 0.3 * evidence.column(f"browDown{s}")[span] for s in ("Left", "Right")
    )
    answer = np.diff(np.asarray(ring))
    late = evidence.frames(0.035)
    scores = []
    for name in LIDS:
        move = np.diff(evidence.column(name)[span])
        pairs = move[: len(move) - late] * answer[late:]
        scores.append(float(np.nansum(pairs) / (np.sqrt(np.nansum(move**2)) + 1e-9)))
    return "left leads" if scores[0] >= scores[1] else "right leads"


def find(evidence: Evidence) -> list[Snag]:
    """One snag a blink."""
    if not evidence.has(*LIDS):
        return []
    left, right = (evidence.channels.column(n) for n in LIDS)
    others = blinks(right, evidence.rate)
    out = []
    for blink in blinks(left, evidence.rate):
        near = [o for o in others if abs(o.peak - blink.peak) <= TOGETHER * evidence.rate]
        if not near:
            continue
        other = min(near, key=lambda o: abs(o.peak - blink.peak))
        apart = abs(_flank(left, blink) - _flank(right, other)) / evidence.rate
        if apart <= LIMIT:
            continue
        first, last = min(blink.first, other.first) - 3, max(blink.last, other.last) + 3
        out.append(Snag(
            "lids out of step", "lids", LIDS, max(0, first), min(last, len(left) - 1), severity(apart, LIMIT, 0.12), apart,
            LIMIT, "s", f"One eye closes {apart * 1000:.0f} ms after the other.",
            (step("pair sides", [place(LIDS, first, last)], 3, way=_truer(evidence, first, last)),),
        ))  # fmt: skip
    return out


DETECTOR = Detector("lids out of step", "Lids out of step", "Both eyes blink, one later than the other.", find)
