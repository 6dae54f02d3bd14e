"""Which point of a surface is seen in each pixel."""

import math

import numpy as np
from numba import njit
from numpy.typing import NDArray

from dynaface.core.track.head import Array


@njit(cache=True)
def _seen(screen, near, tris, number, weights, depth):  # type: ignore[no-untyped-def]
    height, width = depth.shape
    for t in range(tris.shape[0]):
        i, j, k = tris[t, 0], tris[t, 1], tris[t, 2]
        x0, y0, x1, y1, x2, y2 = screen[i, 0], screen[i, 1], screen[j, 0], screen[j, 1], screen[k, 0], screen[k, 1]
        area = (x1 - x0) * (y2 - y0) - (x2 - x0) * (y1 - y0)
        if area > -1e-9:
            continue
        xa, xb = max(math.floor(min(x0, x1, x2)), 0), min(math.ceil(max(x0, x1, x2)) + 1, width)
        ya, yb = max(math.floor(min(y0, y1, y2)), 0), min(math.ceil(max(y0, y1, y2)) + 1, height)
        for y in range(ya, yb):
            for x in range(xa, xb):
                b = ((x - x0) * (y2 - y0) - (x2 - x0) * (y - y0)) / area
                c = ((x1 - x0) * (y - y0) - (x - x0) * (y1 - y0)) / area
                a = 1.0 - b - c
                if a < -1e-9 or b < -1e-9 or c < -1e-9:
                    continue
                here = a * near[i] + b * near[j] + c * near[k]
                if here > depth[y, x]:
                    depth[y, x] = here
                    number[y, x] = t
                    weights[y, x, 0], weights[y, x, 1], weights[y, x, 2] = a, b, c


def surface_at(screen: Array, near: Array, triangles: NDArray[np.int32], size: tuple[int, int]
               ) -> tuple[NDArray[np.int32], Array]:  # fmt: skip
    """(height, width) number of the triangle seen at each pixel's place, -1 for none, and (height, width, 3) weights.

    screen: (vertices, 2) pixels; near: (vertices,) larger is closer; size: (height, width). Places are whole pixels.
    """
    number = np.full(size, -1, np.int32)
    weights = np.zeros((*size, 3))
    _seen(screen, near, triangles, number, weights, np.full(size, -np.inf))
    return number, weights
