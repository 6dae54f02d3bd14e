"""How far the measured motion of the skin is off: point by point, and in ways that move many points together.

A head that is not quite the performer's, or light that changes as they turn, moves whole parts of the face at once. Taken point by point
that looks as certain as an expression does; what a neutral turn leaves over says which ways these are.
"""

from dataclasses import dataclass

import numpy as np

from dynaface.core.track.head import Array

PIXEL_NOISE = 0.45  # of the measured motion, one standard deviation
LOST = 6.0  # times the median squared distance at which a point counts as lost
WAYS = 10  # in which points move together


@dataclass(frozen=True)
class SkinNoise:
    """alone: (n,) pixels of each measured point, one standard deviation; together: (n, 3, ways) metres in head space, each way by one
    standard deviation.
    """

    alone: Array
    together: Array


def unknown_noise(count: int) -> SkinNoise:
    """What is expected of that many points of whom no turn was seen."""
    return SkinNoise(np.full(count, PIXEL_NOISE), np.zeros((count, 3, 0)))


def noise_of_turn(pixels: Array, aside: Array, scale: Array) -> SkinNoise:
    """The noise that frames of a face at rest show.

    pixels: (frames, n, 2) by which points were seen off their places; aside: (frames, n, 3) the same in metres in head space; scale:
    (frames,) pixels a metre.
    """
    away = (pixels**2).sum(axis=2)
    most = LOST * np.median(away, axis=0)
    # A point that was lost in some frames is doubted there later on, not everywhere now.
    kept = np.sqrt(np.minimum(1.0, most / np.maximum(away, 1e-12)))
    frames, count, _ = aside.shape
    table = (aside * kept[..., None]).reshape(frames, -1)
    found = min(WAYS, frames - 1)
    lengths, sizes, ways = np.linalg.svd(table, full_matrices=False)
    together = (ways[:found] * sizes[:found, None] / np.sqrt(frames)).T.reshape(count, 3, found)
    left = table - (lengths[:, :found] * sizes[:found]) @ ways[:found]
    own = (left.reshape(frames, count, 3) * scale[:, None, None]) ** 2
    return SkinNoise(np.sqrt(PIXEL_NOISE**2 + own.sum(axis=2).mean(axis=0) / 2), together)
