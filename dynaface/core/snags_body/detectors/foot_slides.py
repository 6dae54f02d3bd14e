"""Foot slides: a foot that stands goes on the ground, and nothing holds it."""

import numpy as np
from numpy.typing import NDArray

from dynaface.core.body.rotations import Array
from dynaface.core.contact.find_feet import marked
from dynaface.core.snags.snag import Snag, severity
from dynaface.core.snags_body.evidence import BodyDetector, BodyEvidence, setting

LIMIT, WORST = 0.02, 0.12  # metres within one contact
STILL = 0.1  # of its way that a foot may have gone before it is said to slide


def find(evidence: BodyEvidence) -> list[Snag]:
    """One snag a contact, where in it the foot goes; none where the join holds feet."""
    if evidence.settings.feet:
        return []
    out: list[Snag] = []
    held = {c.side: c for c in evidence.contacts}
    for foot, *places in evidence.places:
        if foot.side not in held:
            continue
        for first, last in held[foot.side].foot:
            inside = slice(first, last + 1)
            stands = [marked(s, evidence.body.frames)[inside] for s in (held[foot.side].heel, held[foot.side].toe)]
            slides = [_slide(p[inside], np.flatnonzero(s)) for p, s in zip(places, stands, strict=True) if s.any()]
            far, begins, ends = max(slides, default=(0.0, 0, 0))
            if far > LIMIT:
                out += evidence.snag(
                    "foot slides", f"leg{foot.side}", [foot.ankle], first + begins, first + ends, severity(far, LIMIT, WORST), far * 100,
                    LIMIT * 100, "cm", f"The {foot.side.lower()} foot slides {far * 100:.1f} cm while it stands.",
                    (setting("feet", True),),
                )  # fmt: skip
    return out


def _slide(place: Array, stands: NDArray[np.intp]) -> tuple[float, int, int]:
    """(metres that a place (frames, 3) goes on the ground in frames in which it stands, the frames between which it does)."""
    own = place[stands][:, [0, 2]]
    far = float(np.linalg.norm(np.ptp(own, axis=0)))
    away = np.linalg.norm(own - own[0], axis=1)
    end = int(np.argmax(away))
    still = np.flatnonzero(away[: end + 1] <= STILL * away[end])
    return far, int(stands[still[-1] if len(still) else 0]), int(stands[end])


DETECTOR = BodyDetector("foot slides", "Foot slides", "A foot goes on the ground while it stands.", find)
