"""Profiles of a blink: how both lids go over its length, as curves that can be edited."""

from dataclasses import dataclass
from functools import cached_property

import numpy as np

from dynaface.core import checks
from dynaface.core.curves.keys import Key, Keys, keys_at
from dynaface.core.errors import InputError
from dynaface.core.layers.weight import Amounts

Points = tuple[tuple[float, float], ...]
LEAST, MOST = 3, 12  # points of a curve
NARROW = 0.01  # of a blink's length between two points


@dataclass(frozen=True)
class Profile:
    """upper, lower: (part of the blink's length, how far the lid has gone, 0..1) in order, open at both ends. The upper lid closes; the
    lower one is pressed up by the ring of the eye. Raises InputError for points that make no such curve.
    """

    upper: Points
    lower: Points

    def __post_init__(self) -> None:
        for name in ("upper", "lower"):
            _check(name, getattr(self, name))

    @cached_property
    def closing(self) -> float:
        """The part of the length at which the upper lid is lowest."""
        return max(self.upper, key=lambda point: point[1])[0]

    def upper_at(self, part: Amounts) -> Amounts:
        """(n,) how far the upper lid is down at parts of the length (n,); 0 outside 0..1."""
        return _curve(self.upper, part)

    def lower_at(self, part: Amounts) -> Amounts:
        """(n,) how far the lower lid is up."""
        return _curve(self.lower, part)


def _check(name: str, points: Points) -> None:
    if not LEAST <= len(points) <= MOST:
        raise InputError(f"the {name} lid has {len(points)} points; a curve has {LEAST} to {MOST}")
    for at, value in points:
        checks.within(f"a place of the {name} lid", at, 0, 1)
        checks.within(f"a value of the {name} lid", value, 0, 1)
    steps = np.diff([at for at, _ in points])
    if points[0] != (0.0, 0.0) or points[-1] != (1.0, 0.0) or (steps < NARROW).any():
        raise InputError(f"the {name} lid must begin at 0, end at 1, be open at both, and go on from point to point")


def _curve(points: Points, part: Amounts) -> Amounts:
    inside = (part > 0) & (part < 1)
    return np.where(inside, np.clip(keys_at(_keys(points), np.asarray(part, np.float64)), 0, 1), 0.0)


def _keys(points: Points) -> Keys:
    """The points as keys, at rest at both ends and level at the extremes."""
    ends = {0, len(points) - 1}
    return tuple(Key(at, value, kind="flat" if n in ends else "smooth") for n, (at, value) in enumerate(points))


BUILT_IN: dict[str, Profile] = {
    "plain": Profile(((0, 0), (0.3, 1), (1, 0)), ((0, 0), (0.3, 1), (1, 0))),
    "brisk": Profile(((0, 0), (0.2, 1), (0.45, 0.3), (1, 0)), ((0, 0), (0.22, 0.9), (0.5, 0.2), (1, 0))),
    "soft": Profile(((0, 0), (0.38, 0.92), (0.5, 0.92), (1, 0)), ((0, 0), (0.42, 0.5), (1, 0))),
    "heavy": Profile(((0, 0), (0.25, 1), (0.55, 0.97), (0.8, 0.25), (1, 0)), ((0, 0), (0.3, 1), (0.55, 0.8), (1, 0))),
}
"""Usual; quick and light; with the lid not quite down; tired, with the eye held shut."""
