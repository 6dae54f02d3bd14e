"""Opposing shapes at once: a face that smiles and frowns."""

import numpy as np

from dynaface.core.shapes.pairs import OPPOSED
from dynaface.core.shapes.regions import region_of
from dynaface.core.snags.snag import Detector, Evidence, Snag, merged, place, severity, step

LIMIT, SHORTEST = 0.2, 0.12


def find(evidence: Evidence) -> list[Snag]:
    """One snag a pair and stretch."""
    out = []
    for one, other in OPPOSED:
        if not evidence.has(one, other):
            continue
        common = np.nan_to_num(np.minimum(evidence.column(one), evidence.column(other)))
        for first, last in merged(common > LIMIT, evidence.frames(0.1), evidence.frames(SHORTEST)):
            worst = float(common[first : last + 1].max())
            out.append(Snag(
                "opposing", region_of(one), (one, other), first, last, severity(worst, LIMIT, 0.6), worst, LIMIT, "",
                f"{one} and {other} pull against each other.",
                (step("hold opposing apart", [place((one, other), first, last)], evidence.frames(0.06)),),
            ))  # fmt: skip
    return sorted(out, key=lambda s: s.first)


DETECTOR = Detector("opposing", "Opposing shapes", "Two shapes that a face makes one at a time are both strong.", find)
