"""What the hands of a body touch at some moments, in a way that another body can do it too."""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from dynaface.core.body.rotations import Array
from dynaface.core.body.skeleton import Motion
from dynaface.core.contact.by_hand import SetContact, standing
from dynaface.core.contact.find_feet import Spans
from dynaface.core.contact.find_hands import TOUCHES, Toucher
from dynaface.core.contact.hands import PLACES


@dataclass(frozen=True)
class Touching:
    """on: (frames, 3) whether there is a touch, in the order of `TOUCHES`; way: (frames, 3, 3) of a hand on the head the direction from the
    head's middle, as the head sees it, of hands on each other the metres from the left one to the right one, as the chest sees it; places:
    (frames, 3, 2) numbers in `PLACES` of what touches of the left and of the right hand.
    """

    on: NDArray[np.bool_]
    way: Array
    places: NDArray[np.int8]

    def rows(self, own: slice | NDArray[np.bool_] | NDArray[np.signedinteger[Any]]) -> "Touching":
        """Some of its frames."""
        return Touching(self.on[own], self.way[own], self.places[own])

    def put(self, own: NDArray[np.intp], other: "Touching", rows: NDArray[np.intp]) -> None:
        """Takes frames from another one, in place."""
        self.on[own], self.way[own], self.places[own] = other.on[rows], other.way[rows], other.places[rows]


def none_touching(frames: int) -> Touching:
    """Hands that touch nothing."""
    shape = (frames, len(TOUCHES))
    return Touching(np.zeros(shape, bool), np.zeros((*shape, 3)), np.zeros((*shape, 2), np.int8))


def touches_with_set(found: Mapping[str, Spans], by_hand: Mapping[str, SetContact], rate: float, frames: int) -> dict[str, Spans]:  # fmt: skip
    """Spans with those that were set by hand, which are put where what was found touches them."""
    every = standing(found, by_hand, rate, frames)
    return {kind: tuple((s.first, s.last) for s in every if s.side == kind) for kind in found}


def touching_of(body: Motion, spans: Mapping[str, Spans], seconds: Array) -> Touching:
    """What hands touch where a body is seen at seconds (frames,) of it. spans: frames of the body."""
    out = none_touching(len(seconds))
    who = Toucher.of(body.skeleton)
    exact = seconds * float(body.rate)
    for number, kind in enumerate(TOUCHES):
        for first, last in spans.get(kind, ()):
            rows = np.flatnonzero((exact > first - 0.5) & (exact < last + 0.5))
            if not len(rows) or kind not in who.kinds():
                continue
            rotations, positions = body.skeleton.pose(*body.at(seconds[rows]))
            best: tuple[float, Array, tuple[str, str]] | None = None
            for left, right in _pairs(kind, who):
                if kind == "Hands":
                    gap, way = who.apart(left, right, rotations, positions)
                else:
                    hand = who.hands[kind.removesuffix("Hand")]
                    gap, way = who.beyond_skin(hand, left or right, rotations, positions)
                if best is None or np.median(gap) < best[0]:
                    best = float(np.median(gap)), way, (left, right)
            assert best is not None
            out.on[rows, number], out.way[rows, number] = True, best[1]
            out.places[rows, number] = [PLACES.index(p) if p else 0 for p in best[2]]
    return out


def _pairs(kind: str, who: Toucher) -> list[tuple[str, str]]:
    """(place of the left hand, of the right hand) that may touch, "" for a hand that does not take part."""
    if kind == "Hands":
        return [(p, p) for p in PLACES if all(p in h.places for h in who.hands.values())]
    own = [p for p in PLACES if p in who.hands[kind.removesuffix("Hand")].places]
    return [(p, "") if kind.startswith("Left") else ("", p) for p in own]
