"""The frame of each expression's extreme in a range of motion, from its solve with the general face."""

import numpy as np
from numpy.typing import NDArray

from dynaface.core.shapes.standard import SHAPES

CLEAR = 0.2  # weight above rest at which an expression counts as shown
FAINT = 0.15  # a shape that rises less is compared as if it rose as much
ALONE = 0.15  # how much of what other shapes show speaks against a frame


def extremes(weights: NDArray[np.floating], neutral: tuple[int, int]) -> dict[str, tuple[int, float]]:
    """shape -> (frame, rise above rest) of those that are shown.

    weights: (frames, 52); neutral: first and last frame at rest. The frame in which a shape is near its highest and the
    others, each measured by its own highest, show least: an extreme is sought, not a mixture.
    """
    rise = weights - np.median(weights[neutral[0] : neutral[1] + 1], axis=0)
    share = rise / np.maximum(rise.max(axis=0), FAINT)
    shown = np.maximum(share, 0)
    alone = share - ALONE * (shown.sum(axis=1, keepdims=True) - shown)
    return {
        shape: (int(np.argmax(alone[:, i])), float(rise[:, i].max()))
        for i, shape in enumerate(SHAPES)
        if rise[:, i].max() > CLEAR
    }
