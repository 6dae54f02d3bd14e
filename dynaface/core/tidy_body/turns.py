"""Rotations over time as values that can be filtered: neighbours in time on one side, brought back to length."""

from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray

from dynaface.core.body.rotations import Array, continuous, normalised, slerp
from dynaface.core.curves.known_runs import runs

TO_DEGREES = 2 * 57.29578  # of a quaternion's parts, for small turns


def filtered(local: Array, by: Callable[[Array], Array]) -> Array:
    """(frames, joints, 4) through a filter of (frames, n) numbers; small turns are filtered as angles are."""
    smooth = continuous(local)
    return normalised(by(smooth.reshape(len(smooth), -1)).reshape(smooth.shape).astype(np.float64))


def angles_between(one: Array, other: Array) -> Array:
    """(...,) degrees between rotations (..., 4)."""
    return np.degrees(2 * np.arccos(np.clip(np.abs(np.sum(one * other, axis=-1)), 0, 1)))


def steps_of(local: Array) -> Array:
    """(frames - 1, joints) degrees that each joint turns from one frame to the next; exact for the smallest turns as well."""
    one, other = local[:-1], local[1:]
    sign = np.where(np.sum(one * other, axis=-1, keepdims=True) < 0, -1.0, 1.0)
    return np.degrees(2 * np.arcsin(np.clip(np.linalg.norm(other - sign * one, axis=-1) / 2, 0, 1)))


def bridged_turns(local: Array, flags: NDArray[np.bool_], longest: float = np.inf) -> Array:
    """(frames, joints, 4) with what is flagged (frames, joints) put on the arc between the frames beside it, which is left and met as fast as
    it was there; at either end the nearest is held. Runs longer than `longest` frames stay.
    """
    out = continuous(local)
    for joint in np.flatnonzero(flags.any(axis=0)):
        for first, stop in runs(flags[:, joint]):
            if stop - first <= longest:
                out[first:stop, joint] = _between(out[:, joint], first, stop)
    return normalised(out)


def _between(turns: Array, first: int, stop: int) -> Array:
    """(stop - first, 4): what went before and what comes after go on, and one goes over into the other."""
    if first == 0 or stop == len(turns):
        known = turns[stop if first == 0 else first - 1] if 0 < stop - first < len(turns) else turns[0]
        return np.broadcast_to(known, (stop - first, 4))
    part = np.arange(1, stop - first + 1) / (stop - first + 1)
    a, b = turns[first - 1], turns[stop]
    b = b if a @ b >= 0 else -b
    straight = slerp(a, b, part)
    leaving = turns[first - 1] - turns[first - 2] if first >= 2 else np.zeros(4)
    coming = turns[stop + 1] - turns[stop] if stop + 1 < len(turns) else np.zeros(4)
    coming = coming if turns[stop] @ b >= 0 else -coming
    mean, length = (b - a) / (stop - first + 1), stop - first + 1
    u = part[:, None]
    # Hermite terms that are 0 at both ends: what each end's speed is beyond the mean.
    bend = length * (u * (1 - u) ** 2 * (leaving - mean) - u**2 * (1 - u) * (coming - mean))
    return straight + bend
