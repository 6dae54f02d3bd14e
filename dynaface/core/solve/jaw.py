"""The jaw turns about a hinge: half open, what hangs on it is farther out than half of the way between shut and open."""

import numpy as np
from numpy.typing import NDArray
from scipy.spatial import cKDTree

from dynaface.core.shapes.standard import SHAPES
from dynaface.core.track.head import Array
from dynaface.core.track.likeness import Places

JAW = SHAPES.index("jawOpen")
JOINTS = (234, 454)  # landmarks before the ears, where the joints of the jaw are
WHOLE = 0.95  # quantile of the turn among what moves, that is all of the jaw's own
NEAR, APART = 0.009, 0.35  # metres round a point, and share of the jaw's way by which skin there goes apart


def jaw_arc(points: Array, shapes: Array, places: Places) -> Array:
    """(vertices, 3) of `bulge` for a whole head: points (vertices, 3), shapes (52, vertices, 3)."""
    return bulge(points, shapes[JAW], places.on(points)[list(JOINTS)].mean(axis=0))


def above(weights: Array) -> float:
    """How much of the arc is seen at weights (52,): none with the jaw shut or wide open."""
    jaw = float(weights[JAW])
    return jaw * (1 - jaw)


def bulge(points: Array, opened: Array, hinge: Array) -> Array:
    """(n, 3) of which a share w (1 - w) is added at weight w to the straight way of points (n, 3) that a wide open jaw moves by opened
    (n, 3): to second order, the arc of a turn above its chord. hinge: (3,) on an axis that goes from side to side.
    """
    about = (points - hinge) * [0.0, 1.0, 1.0]
    far = np.linalg.norm(about, axis=1)
    turn = np.linalg.norm(opened[:, 1:], axis=1) / np.maximum(far, 0.02)
    moving = turn > 0.1 * turn.max(initial=0.0)
    if not moving.any():
        return np.zeros_like(points)
    whole = float(np.quantile(turn[moving], WHOLE))
    return (np.minimum(turn, whole) * whole / 2)[:, None] * about


def beside_seam(points: Array, opened: Array) -> NDArray[np.bool_]:
    """(n,) True for points (n, 3) beside the seam of the lips: skin near them goes apart when a wide open jaw moves them by opened
    (n, 3). Round them a picture changes as a mouth opens, though nothing hides the face.
    """
    drop = -opened[:, 1]
    near = cKDTree(points[:, :2]).query_ball_point(points[:, :2], NEAR)
    return np.array([np.ptp(drop[others]) for others in near]) > APART * np.abs(drop).max(initial=0.0)
