"""A hand before the mouth: the face take could not see the lips while a hand of the body was near them, and no touch is found there."""

import numpy as np

from dynaface.core.body.rotations import Array
from dynaface.core.contact.find_hands import Toucher, find_touches
from dynaface.core.contact.touching import touches_with_set
from dynaface.core.snags.snag import Snag, merged, severity
from dynaface.core.snags_body.evidence import BodyDetector, BodyEvidence, setting

UNSEEN = 0.5  # of how sure the lips are below which something was before them
LEAST, BRIDGED = 0.12, 0.1  # seconds for which they are hidden at least, and that they may be seen in between
REACH = 0.16  # metres from the head's skin within which an adult's hand may be what hid them: bodies are recorded that roughly
LEAVES = 0.05  # metres by which it is farther away when it comes and goes


def find(evidence: BodyEvidence) -> list[Snag]:
    """One snag a time at which a hand hid the mouth and does not touch; none where the face take says nothing of what it saw."""
    hidden = _hidden(evidence)
    who = Toucher.of(evidence.body.skeleton)
    kinds = [kind for kind in who.kinds() if kind != "Hands"]
    if not hidden or not kinds:
        return []
    rate, frames = float(evidence.body.rate), evidence.body.frames
    touched = touches_with_set(find_touches(evidence.body), evidence.settings.contacts, rate, frames)
    gaps = {kind: _gap(who, kind, evidence) for kind in kinds}
    out: list[Snag] = []
    for first, last in hidden:
        kind = min(kinds, key=lambda k: float(gaps[k][first : last + 1].min()))
        gap = gaps[kind][first : last + 1]
        near = np.flatnonzero(gap < gap.min() + LEAVES)
        begins, ends = first + int(near[0]), first + int(near[-1])
        if gap.min() > REACH or any(a <= ends and begins <= b for a, b in touched[kind]):
            continue
        side = kind.removesuffix("Hand")
        contact = {"side": kind, "first": round(evidence.second(begins), 4), "last": round(evidence.second(ends), 4)}
        touch = () if evidence.settings.touch else (setting("touch", True),)
        out += evidence.snag(
            "hand before the mouth", f"hand{side}", [who.hands[side].bones.end], begins, ends,
            severity(evidence.second(last - first), LEAST, 1.0), float(gap.min()) * 100, REACH * 100, "cm",
            f"The face take did not see the lips, and the {side.lower()} hand is {max(float(gap.min()), 0) * 100:.0f} cm from the head.",
            (setting(f"contacts/seen{kind}{begins}", contact), *touch),
        )  # fmt: skip
    return out


def _hidden(evidence: BodyEvidence) -> list[tuple[int, int]]:
    """Frames of the body between which the lips were not seen."""
    if evidence.lips is None:
        return []
    apart, least = max(1, round(BRIDGED * evidence.rate)), int(np.ceil(LEAST * evidence.rate))
    out = []
    for span in merged(evidence.lips < UNSEEN, apart + 1, least):
        low, high = (round((f / evidence.rate + evidence.begins) * float(evidence.body.rate)) for f in span)
        low, high = max(low, 0), min(high, evidence.body.frames - 1)
        if low < high:
            out.append((low, high))
    return out


def _gap(who: Toucher, kind: str, evidence: BodyEvidence) -> Array:
    """(frames of the body,) metres between the head's skin and that of the nearest place of a hand, as of an adult."""
    seen = who.seen(kind, *evidence.posed)
    return np.asarray(np.min([s.gap for s in seen], axis=0) / who.hands[kind.removesuffix("Hand")].size)


DETECTOR = BodyDetector(
    "hand before the mouth",
    "Hand before the mouth",
    "A hand hid the lips from the face's camera and does not touch.",
    find,
)
