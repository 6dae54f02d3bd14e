"""Gaze angles from look shapes and back.

The angle at which a look shape is 1 is a convention of the standard set: about the limits of an eye that is not
forced (Leigh & Zee, The Neurology of Eye Movements).
"""

import numpy as np
from numpy.typing import NDArray

OUT_DEG, IN_DEG, UP_DEG, DOWN_DEG = 40.0, 40.0, 30.0, 35.0


def angles_from_looks(
    out: NDArray[np.float32], inward: NDArray[np.float32], up: NDArray[np.float32], down: NDArray[np.float32], side: str
) -> tuple[NDArray[np.float32], NDArray[np.float32]]:
    """Turn (positive to the performer's left) and nod (positive up) in degrees of one eye; all arrays (frames,)."""
    toward_side = out * OUT_DEG - inward * IN_DEG
    turn = toward_side if side == "left" else -toward_side
    return turn.astype(np.float32), (up * UP_DEG - down * DOWN_DEG).astype(np.float32)


def looks_from_angles(turn: NDArray[np.float64], nod: NDArray[np.float64], side: str) -> dict[str, NDArray[np.float64]]:
    """The four look weights of one eye ("Up", "Down", "In", "Out") from its angles in degrees, each (frames,)."""
    outward = turn if side == "left" else -turn
    return {
        "Out": np.clip(outward / OUT_DEG, 0, 1),
        "In": np.clip(-outward / IN_DEG, 0, 1),
        "Up": np.clip(nod / UP_DEG, 0, 1),
        "Down": np.clip(-nod / DOWN_DEG, 0, 1),
    }
