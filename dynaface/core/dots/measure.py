"""Where dots are in a picture, to a part of a pixel: by likeness of colour first, then by how much of each pixel is paint."""

import numpy as np
from numba import njit
from numpy.typing import NDArray

from dynaface.core.dots.dot import DARK, Picture

Array = NDArray[np.float64]
FEWEST_SKIN, LEAST_COVER = 6, 0.12  # pixels that tell the skin's colour, and share of paint that counts


@njit(cache=True, fastmath=True)
def _colour(picture, y, x):  # type: ignore[no-untyped-def]
    """(shares of red, green, blue, sum of the three) of a pixel."""
    r, g, b = float(picture[y, x, 0]), float(picture[y, x, 1]), float(picture[y, x, 2])
    total = r + g + b
    bright = max(total, 1.0)
    return r / bright, g / bright, b / bright, total


@njit(cache=True, fastmath=True)
def _refined(picture, weight, x0, y0, x, y, radius, paint):  # type: ignore[no-untyped-def]
    """A centre (x, y) once more, by how much of each pixel is paint: one at the rim lies between the colours of paint and of the skin
    about the dot. weight: likeness of colour in the window that begins at (x0, y0).
    """
    skin, count = np.zeros(3), 0
    height, width = weight.shape
    inner, outer = (1.3 * radius + 1) ** 2, (2.2 * radius + 2.5) ** 2
    for i in range(height):
        for j in range(width):
            away = (y0 + i - y) ** 2 + (x0 + j - x) ** 2
            r, g, b, total = _colour(picture, y0 + i, x0 + j)
            if weight[i, j] == 0 and inner < away < outer and total > DARK:
                skin[0] += r
                skin[1] += g
                skin[2] += b
                count += 1
    if count < FEWEST_SKIN:
        return x, y
    skin /= count
    way = paint - skin
    way /= max((way * way).sum(), 1e-4)
    first_x, first_y = x, y
    for _ in range(3):
        total_cover, right, down = 0.0, 0.0, 0.0
        for i in range(height):
            for j in range(width):
                away = (y0 + i - y) ** 2 + (x0 + j - x) ** 2
                r, g, b, total = _colour(picture, y0 + i, x0 + j)
                if away > (1.6 * radius + 1.5) ** 2 or total <= DARK:
                    continue
                cover = (r - skin[0]) * way[0] + (g - skin[1]) * way[1] + (b - skin[2]) * way[2]
                if cover > LEAST_COVER:
                    cover = min(cover, 1.0)
                    total_cover += cover
                    right += cover * (x0 + j)
                    down += cover * (y0 + i)
        if total_cover < 1e-3:
            return first_x, first_y
        x, y = right / total_cover, down / total_cover
    if (x - first_x) ** 2 + (y - first_y) ** 2 > radius**2:
        return first_x, first_y
    return x, y


@njit(cache=True, fastmath=True)
def _measure(picture, wanted, radius, loose, shares, tolerance, alike):  # type: ignore[no-untyped-def]
    """(centres, colour mass) of dots: centres weighted by likeness of colour, near what is expected first, then about what was
    found. What is of one colour belongs to the dot that is expected nearest.
    """
    height, width = picture.shape[:2]
    centre, mass = wanted.copy(), np.zeros(len(wanted))
    for n in range(len(wanted)):
        reach = int(np.ceil(2.6 * radius[n] * loose[n] + 4))
        x0, y0 = round(wanted[n, 0]) - reach, round(wanted[n, 1]) - reach
        x1, y1 = min(x0 + 2 * reach + 1, width), min(y0 + 2 * reach + 1, height)
        x0, y0 = max(x0, 0), max(y0, 0)
        if x1 <= x0 or y1 <= y0:
            continue
        weight = np.zeros((y1 - y0, x1 - x0))
        for y in range(y0, y1):
            for x in range(x0, x1):
                r, g, b, total = _colour(picture, y, x)
                if total <= DARK:
                    continue
                apart = abs(r - shares[n, 0]) + abs(g - shares[n, 1]) + abs(b - shares[n, 2])
                if apart >= 2 * tolerance:
                    continue
                own = (y - wanted[n, 1]) ** 2 + (x - wanted[n, 0]) ** 2
                mine = True
                for m in range(len(wanted)):
                    if alike[n, m] and (y - wanted[m, 1]) ** 2 + (x - wanted[m, 0]) ** 2 < own:
                        mine = False
                        break
                if mine:
                    weight[y - y0, x - x0] = 1 - apart / (2 * tolerance)
        for spread in (2.6, 2.0, 1.8):
            wide = 2 * (spread * radius[n] * loose[n] + 1.5) ** 2
            total, right, down = 0.0, 0.0, 0.0
            for y in range(y0, y1):
                by_row = np.exp(-((y - centre[n, 1]) ** 2) / wide)
                for x in range(x0, x1):
                    w = weight[y - y0, x - x0]
                    if w > 0:
                        w *= by_row * np.exp(-((x - centre[n, 0]) ** 2) / wide)
                        total += w
                        right += w * x
                        down += w * y
            mass[n] = total
            if total < 1e-3:
                break
            centre[n, 0], centre[n, 1] = right / total, down / total
        if mass[n] >= 1e-3:
            centre[n] = _refined(picture, weight, x0, y0, centre[n, 0], centre[n, 1], radius[n], shares[n])
    return centre, mass


def measure_dots(picture: Picture, wanted: Array, radius: Array, loose: Array, shares: Array, tolerance: float,
                 alike: NDArray[np.bool_]) -> tuple[Array, Array]:  # fmt: skip
    """((dots, 2) centres, (dots,) mass of colour) about where dots are expected, wanted (dots, 2); loose: (dots,) times the usual
    reach; shares: (dots, 3) of red, green and blue; alike: (dots, dots) which are of one colour.
    """
    centre, mass = _measure(np.ascontiguousarray(picture), wanted, radius, loose, shares, tolerance, alike)
    return np.asarray(centre), np.asarray(mass)
