"""Taking hold of a place of the face: which channels bring it where it is dragged, with the least change of the rest.

A bounded least-squares inverse of the blendshapes at one vertex (Lewis & Anjyo: Direct manipulation blendshapes, 2010), in the plane
of the screen: where the place goes in depth is free.
"""

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray
from scipy.optimize import lsq_linear

from dynaface.core import checks
from dynaface.core.layers.weight import Amounts

PULL = 3e-3  # of what a channel's own move costs against a miss: the place comes to within parts of a millimetre
SHARE = 0.12  # a channel that moves the place by less than this part of what it moves most is not asked
DEAREST = 30.0  # times the cost of the channel that moves least of the rest
LEAST = 2e-3  # a smaller change is left out
WORSE = 1e-4  # metres by which a place may miss more with fewer channels: few are easier to read and to change again


def grab(
    moves: NDArray[np.float64],
    most: Amounts,
    spread: Amounts,
    now: Amounts,
    wanted: Sequence[float],
    low: float,
    high: float,
) -> Amounts:
    """(channels,) by how much each channel changes. moves: (channels, 2) metres in the plane by which a unit of each moves the place;
    most: (channels,) metres by which it moves what it moves most; spread: (channels,) metres, root mean square over the whole face;
    now: (channels,) values; wanted: (2,) metres in the plane; low, high: limits of the values. A channel costs the more the more of
    the rest it moves along.
    """
    checks.shaped("moves", moves, len(now), 2)
    here = np.linalg.norm(moves, axis=1)
    asked = here > SHARE * np.maximum(most, 1e-9)
    if not asked.any():
        return np.zeros(len(now))
    along = np.divide(spread, here, out=np.ones(len(now)), where=here > 0)
    dear = np.clip((along / max(float(along[asked].min()), 1e-9)) ** 2, 1.0, DEAREST)
    cost = dear * here
    room = np.minimum(low - now, 0), np.maximum(high - now, 0) + 1e-12
    out, miss = _solved(moves, cost, room, wanted, asked)
    share = 0.5
    while share > 0.02:
        # The channels that do least here are left out, as many at once as go without the place missing.
        order = np.argsort(np.where(asked, np.abs(out) * here / dear, np.inf))
        fewer = asked.copy()
        fewer[order[: max(int(asked.sum() * share), 1)]] = False
        tried, missed = _solved(moves, cost, room, wanted, fewer) if fewer.any() else (out, np.inf)
        if missed <= miss + WORSE:
            out, asked = tried, fewer
        else:
            share /= 3
    out[np.abs(out) < LEAST] = 0.0
    return out


def _solved(moves: NDArray[np.float64], cost: Amounts, room: tuple[Amounts, Amounts], wanted: Sequence[float],
            asked: NDArray[np.bool_]) -> tuple[Amounts, float]:  # fmt: skip
    """(changes (channels,), metres by which the place misses) with those channels alone that are asked."""
    matrix = np.concatenate([moves[asked].T, np.diag(PULL * cost[asked])])
    goal = np.concatenate([np.asarray(wanted, np.float64), np.zeros(int(asked.sum()))])
    out = np.zeros(len(cost))
    out[asked] = lsq_linear(matrix, goal, (room[0][asked], room[1][asked]), tol=1e-10).x
    return out, float(np.linalg.norm(out @ moves - np.asarray(wanted)))
