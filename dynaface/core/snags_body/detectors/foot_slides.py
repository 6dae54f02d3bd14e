"""Foot slides: a foot that stands goes on the ground, and nothing holds it."""

import numpy as np

from dynaface.core.contact.find_feet import marked
from dynaface.core.snags.snag import Snag, severity
from dynaface.core.snags_body.evidence import BodyDetector, BodyEvidence, setting

LIMIT, WORST = 0.02, 0.12  # metres within one contact


def find(evidence: BodyEvidence) -> list[Snag]:
    """One snag a contact; none where the join holds feet."""
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
            far = max(
                (float(np.linalg.norm(np.ptp(p[inside][s][:, [0, 2]], axis=0))) for p, s in zip(places, stands, strict=True) if s.any()),
                default=0.0,
            )  # fmt: skip
            if far > LIMIT:
                out += evidence.snag(
                    "foot slides", f"leg{foot.side}", [foot.ankle], first, last, severity(far, LIMIT, WORST), far * 100,
                    LIMIT * 100, "cm", f"The {foot.side.lower()} foot slides {far * 100:.1f} cm while it stands.",
                    (setting("feet", True),),
                )  # fmt: skip
    return out


DETECTOR = BodyDetector("foot slides", "Foot slides", "A foot goes on the ground while it stands.", find)
