"""What becomes of the way a body goes, and where it starts."""

import numpy as np

from dynaface.core.body.rotations import Array, about, multiply, rotate
from dynaface.core.match.rest import ahead

# Of (left, up, ahead): how much is kept. What is kept in metres is not scaled by the character's size.
TRAVELS: dict[str, tuple[float, float, float]] = {
    "scaled": (1, 1, 1), "metres": (1, 1, 1), "ahead": (0, 1, 1), "aside": (1, 1, 0), "spot": (0, 1, 0), "still": (0, 0, 0),
}  # fmt: skip
GOING = ("scaled", "metres")  # those in which feet that stand do not slide


def travelled(root: Array, travel: str, scale: float) -> Array:
    """Root travel (frames, 3) as it is wished; scale: by which it was scaled."""
    kept = np.array(TRAVELS[travel], np.float64)
    if travel == "metres":
        kept = kept / [scale, 1.0, scale]
    return root * kept


def started_here(turns: Array, root: Array, joint: int) -> tuple[Array, Array]:
    """(turns, root) so that a body begins where its character stands and faces as it does. turns: (frames, joints, 4) world turns from
    rest; joint: the one that travels.
    """
    back = about("y", -ahead(turns[0, joint]))
    way = root - root[0] * [1.0, 0.0, 1.0]
    return multiply(back, turns), rotate(np.broadcast_to(back, (len(root), 4)), way)
