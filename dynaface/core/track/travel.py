"""How far a head went, where the camera stood still."""

import numpy as np

from dynaface.core.body.rotations import inverse, normalised, rotate
from dynaface.core.track.head import Array

# Metres, in the head's own frame from between the eyes: about where it sits on the neck, so that a mere turn is no travel.
SEAT = np.array([0.0, -0.11, -0.08])


def travel_of(turns: Array, places: Array, rest: Array) -> Array:
    """(frames, 3) millimetres to the performer's left, up and forward from where the head mostly was.

    turns: (frames, 4), places: (frames, 3) metres of the head's origin, both NaN in frames without a head, which are bridged;
    rest: (4,) the turn in which it looks ahead. With no head at all it is 0 everywhere.
    """
    known = np.flatnonzero(np.isfinite(turns[:, 0]))
    if not len(known):
        return np.zeros((len(turns), 3))
    seat = places[known] + rotate(normalised(turns[known]), SEAT)
    moved = rotate(inverse(rest), seat - np.median(seat, axis=0)) * 1000
    return np.stack([np.interp(np.arange(len(turns)), known, m) for m in moved.T], axis=1)
