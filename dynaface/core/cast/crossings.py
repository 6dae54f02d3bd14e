"""Where a character's own mesh goes through itself: lips that cross, lids that pass each other, teeth through lips."""

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np

from dynaface.core.cast.contacts import gap_of
from dynaface.core.cast.study import Edge
from dynaface.core.curves.channels import Floats
from dynaface.core.curves.known_runs import runs

WORDS = {"lips": "lips cross", "lid left": "left lids pass each other", "lid right": "right lids pass each other",
         "teeth upper": "upper teeth through the lip", "teeth lower": "lower teeth through the lip"}  # fmt: skip
ALLOWED = 0.05  # of the width of mouth or eye: less is not seen
APART = 3  # frames between two crossings that are one


@dataclass(frozen=True)
class Crossing:
    """kind: a key of WORDS; frames first..last, the worst at `peak`; depth: millimetres there."""

    kind: str
    first: int
    last: int
    peak: int
    depth: float


def depths(edge: Edge, targets: tuple[str, ...], weights: Floats) -> np.ndarray:
    """(frames,) metres by which the rims pass each other beyond what they do at rest; 0 where they do not."""
    gap = gap_of(edge, targets, weights)
    return np.asarray(np.maximum(np.minimum(edge.gap, 0.0) - gap, 0.0).max(axis=1, initial=0.0))


def find_crossings(targets: tuple[str, ...], weights: Floats, edges: Mapping[str, Edge]) -> list[Crossing]:
    """All crossings of weights (frames, targets), in time."""
    out = []
    for kind, edge in edges.items():
        deep = depths(edge, targets, weights)
        for first, stop in _joined(runs(deep > ALLOWED * edge.size)):
            peak = first + int(np.argmax(deep[first:stop]))
            out.append(Crossing(kind, first, stop - 1, peak, round(float(deep[peak]) * 1000, 2)))
    return sorted(out, key=lambda c: (c.first, c.kind))


def _joined(spans: list[tuple[int, int]]) -> list[tuple[int, int]]:
    out: list[tuple[int, int]] = []
    for first, stop in spans:
        if out and first - out[-1][1] <= APART:
            out[-1] = (out[-1][0], stop)
        else:
            out.append((first, stop))
    return out
