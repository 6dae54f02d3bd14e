"""A prop, and where it goes over the frames of a shot."""

from collections.abc import Mapping
from dataclasses import dataclass, field
from fractions import Fraction

import numpy as np
from numpy.typing import NDArray

from dynaface.core.body.rotations import Array, about, multiply, rotate, slerp

Numbers = tuple[float, float, float]


@dataclass(frozen=True)
class PropMotion:
    """How a prop moves by itself. turns: (frames, 4) and shifts: (frames, 3) metres, of the whole prop, from how its file has it."""

    turns: Array
    shifts: Array
    rate: Fraction

    def at(self, seconds: Array) -> tuple[Array, Array]:
        """(turns (n, 4), shifts (n, 3)) at seconds (n,) from frame 0; held beyond either end."""
        exact = np.clip(seconds * float(self.rate), 0, len(self.turns) - 1)
        low = np.floor(exact).astype(int)
        high, part = np.minimum(low + 1, len(self.turns) - 1), exact - low
        shifts = self.shifts[low] * (1 - part[:, None]) + self.shifts[high] * part[:, None]
        return slerp(self.turns[low], self.turns[high], part), shifts


@dataclass(frozen=True)
class PropShape:
    """What a file says of a prop. points: (n, 3) metres of its surface in its own space; motion: how it moves by itself, None for one that
    does not.
    """

    points: NDArray[np.float32]
    motion: PropMotion | None = None

    @property
    def size(self) -> float:
        """Metres of its longest side."""
        return float(np.ptp(self.points, axis=0).max()) if len(self.points) else 0.0


@dataclass(frozen=True)
class Hold:
    """A span in which a hand holds a prop. role: whose hand; side: "Left" or "Right"; first, last: frames of the shot, both included; at:
    metres from the prop's origin to where it lies in the palm; closed: 0..1 how far the fingers close about it.
    """

    role: str
    side: str
    first: int
    last: int
    at: Numbers = (0.0, 0.0, 0.0)
    closed: float = 0.8


@dataclass(frozen=True)
class PlacedProp:
    """A prop in a shot. at: metres; turn: degrees to its left; size: by which its file's metres are multiplied; plays: second of the shot
    at which its own motion begins, None where it is not used; in_hand: whether it is in the hand that holds it first from the beginning, else that
    hand takes it from where it stands; hangs: whether it stays upright whatever the hand does.
    """

    at: Numbers = (0.0, 0.0, 0.0)
    turn: float = 0.0
    size: float = 1.0
    plays: float | None = None
    in_hand: bool = True
    hangs: bool = False
    holds: Mapping[str, Hold] = field(default_factory=dict)

    @property
    def in_order(self) -> list[tuple[str, Hold]]:
        """Its holds by when they begin."""
        return sorted(self.holds.items(), key=lambda pair: (pair[1].first, pair[0]))


@dataclass(frozen=True)
class PropWay:
    """Where a prop is: at (frames, 3) metres of its origin in the shot, turns (frames, 4)."""

    at: Array
    turns: Array

    def seen_from(self, at: Numbers, turn: float) -> "PropWay":
        """The same in the space of a role that stands `at` metres in the shot and is turned to its left by degrees."""
        back = about("y", -turn)
        return PropWay(rotate(back, self.at - np.asarray(at)), multiply(back, self.turns))

    def from_second(self, first: float, rate: Fraction) -> "PropWay":
        """The same from a second on, held at its end."""
        turns, shifts = PropMotion(self.turns, self.at, rate).at(first + np.arange(len(self.at)) / float(rate))
        return PropWay(shifts, turns)

    def at_rate(self, rate: Fraction, to: Fraction, frames: int) -> "PropWay":
        """The same at another rate, so many frames of it."""
        turns, shifts = PropMotion(self.turns, self.at, rate).at(np.arange(frames) / float(to))
        return PropWay(shifts, turns)

    def place(self, own: Array, rows: slice = slice(None)) -> Array:
        """(n, 3) in the shot of a place (3,) of the prop, which is its size's metres from its origin."""
        return np.asarray(self.at[rows] + rotate(self.turns[rows], np.broadcast_to(own, self.at[rows].shape)))


def own_way(placed: PlacedProp, shape: PropShape, frames: int, rate: Fraction) -> PropWay:
    """Where a prop is while nobody holds it: where it stands, or where its own motion has it from there."""
    stand = about("y", placed.turn)
    if placed.plays is None or shape.motion is None:
        turns = np.broadcast_to(stand, (frames, 4)).copy()
        return PropWay(np.broadcast_to(np.asarray(placed.at, np.float64), (frames, 3)).copy(), turns)
    turns, shifts = shape.motion.at(np.arange(frames) / float(rate) - placed.plays)
    return PropWay(np.asarray(placed.at) + rotate(stand, shifts * placed.size), multiply(stand, turns))
