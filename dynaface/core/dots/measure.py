"""Where dots are in a picture, to a part of a pixel: by likeness of colour first, then by how much of each pixel is paint."""

import numpy as np
from numba import njit
from numpy.typing import NDArray

from dynaface.core.dots.dot import DARK, Picture

Array = NDArray[np.float64]
FEWEST_SKIN, LEAST_COVER = 12, 0.12  # pixels that tell the skin's light, and share of paint that counts
ASLANT = 0.25  # how far aside of the way from skin to paint a pixel's colour may lie, in shares of that way
FAINT = 0.01  # of the light that white gives, three times: darker pixels tell no colour
LEVEL = 10.0  # how firmly the skin's light is held level where few pixels tell of it
LINEAR = (np.arange(256) / 255) ** 2.2  # light behind a picture's numbers


@njit(cache=True, fastmath=True)
def _light(picture, y, x):  # type: ignore[no-untyped-def]
    """(shares of red and green, sum of the three) of the light that a pixel took in; shares are 0 where it is dark."""
    r, g, b = LINEAR[picture[y, x, 0]], LINEAR[picture[y, x, 1]], LINEAR[picture[y, x, 2]]
    total = r + g + b
    if total < FAINT:
        return 0.0, 0.0, 0.0
    return r / total, g / total, total


@njit(cache=True, fastmath=True)
def _surroundings(picture, weight, x0, y0, x, y, radius):  # type: ignore[no-untyped-def]
    """(skin (3, 3): light about a dot in the middle and its slopes aside and down, paint (3,): light within it, whether both are
    known). weight: likeness of colour in the window that begins at (x0, y0).
    """
    inner, outer, core = (1.3 * radius + 1) ** 2, (2.2 * radius + 2.5) ** 2, (0.5 * radius) ** 2
    a, b, paint = np.zeros((3, 3)), np.zeros((3, 3)), np.zeros(3)
    at, light = np.ones(3), np.empty(3)
    pixels, painted = 0, 0
    for i in range(weight.shape[0]):
        for j in range(weight.shape[1]):
            right, down = x0 + j - x, y0 + i - y
            away = right * right + down * down
            red, green, total = _light(picture, y0 + i, x0 + j)
            if total == 0.0:
                continue
            at[1], at[2] = right, down
            light[0], light[1], light[2] = red, green, total
            if weight[i, j] == 0 and inner < away < outer:
                for p in range(3):
                    for q in range(3):
                        a[p, q] += at[p] * at[q]
                        b[p, q] += at[p] * light[q]
                pixels += 1
            elif weight[i, j] > 0 and away < core:
                for p in range(3):
                    paint[p] += light[p]
                painted += 1
    if pixels < FEWEST_SKIN or painted == 0:
        return b, paint, False
    a[1, 1] += LEVEL
    a[2, 2] += LEVEL
    return np.linalg.solve(a, b), paint / painted, True


@njit(cache=True, fastmath=True)
def _refined(picture, weight, x0, y0, x, y, radius):  # type: ignore[no-untyped-def]
    """A centre (x, y) once more, by how much of each pixel is paint: one at the rim mixes the light of paint and of the skin there,
    which about a brow or a lip is not the same on all sides.
    """
    skin, paint, known = _surroundings(picture, weight, x0, y0, x, y, radius)
    if not known:
        return x, y
    first_x, first_y = x, y
    for _ in range(3):
        whole, right, down = 0.0, 0.0, 0.0
        for i in range(weight.shape[0]):
            for j in range(weight.shape[1]):
                if (y0 + i - y) ** 2 + (x0 + j - x) ** 2 > (1.6 * radius + 1.5) ** 2:
                    continue
                red, green, total = _light(picture, y0 + i, x0 + j)
                if total == 0.0:
                    continue
                aside, below = x0 + j - first_x, y0 + i - first_y
                skin_red = skin[0, 0] + aside * skin[1, 0] + below * skin[2, 0]
                skin_green = skin[0, 1] + aside * skin[1, 1] + below * skin[2, 1]
                way_red, way_green = paint[0] - skin_red, paint[1] - skin_green
                far = max(way_red * way_red + way_green * way_green, 1e-4)
                share = ((red - skin_red) * way_red + (green - skin_green) * way_green) / far
                aslant = ((red - skin_red) * way_green - (green - skin_green) * way_red) / far
                if abs(aslant) > ASLANT:  # a ground behind the face, or cloth, is no mixture of paint and skin
                    continue
                share = min(max(share, 0.0), 1.0)
                # Shares of light become shares of the pixel: what is bright tells more of the colour.
                bright = max(skin[0, 2] + aside * skin[1, 2] + below * skin[2, 2], FAINT)
                cover = share * bright / (share * bright + (1 - share) * paint[2])
                if cover > LEAST_COVER:
                    whole += cover
                    right += cover * (x0 + j)
                    down += cover * (y0 + i)
        if whole < 1e-3:
            return first_x, first_y
        x, y = right / whole, down / whole
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
                r, g, b = float(picture[y, x, 0]), float(picture[y, x, 1]), float(picture[y, x, 2])
                total = r + g + b
                if total <= DARK:
                    continue
                apart = abs(r / total - shares[n, 0]) + abs(g / total - shares[n, 1]) + abs(b / total - shares[n, 2])
                if apart >= 2 * tolerance:
                    continue
                own = (y - wanted[n, 1]) ** 2 + (x - wanted[n, 0]) ** 2
                mine = True
                for m in range(len(wanted)):
                    if alike[n, m] and (y - wanted[m, 1]) ** 2 + (x - wanted[m, 0]) ** 2 < own:
                        mine = False
                        break
                if mine:
                    weight[y - y0, x - x0] = (1 - apart / (2 * tolerance)) ** 2
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
            centre[n] = _refined(picture, weight, x0, y0, centre[n, 0], centre[n, 1], radius[n])
    return centre, mass


def measure_dots(picture: Picture, wanted: Array, radius: Array, loose: Array, shares: Array, tolerance: float,
                 alike: NDArray[np.bool_]) -> tuple[Array, Array]:  # fmt: skip
    """((dots, 2) centres, (dots,) mass of colour) about where dots are expected, wanted (dots, 2); loose: (dots,) times the usual
    reach; shares: (dots, 3) of red, green and blue; alike: (dots, dots) which are of one colour.
    """
    centre, mass = _measure(np.ascontiguousarray(picture), wanted, radius, loose, shares, tolerance, alike)
    return np.asarray(centre), np.asarray(mass)
