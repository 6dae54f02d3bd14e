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
            nearest = min(who.seen(kind, rotations, positions), key=lambda s: float(np.median(s.gap)))
            out.on[rows, number], out.way[rows, number] = True, nearest.way
            out.places[rows, number] = [PLACES.index(p) if p else 0 for p in (nearest.left, nearest.right)]
    return out
