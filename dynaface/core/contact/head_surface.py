"""The surface of a head about its middle, as far as a hand can touch it."""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import gaussian_filter, map_coordinates

from dynaface.core.body.rotations import Array
from dynaface.core.body.skeleton import Skeleton
from dynaface.core.contact.hands import hands_of
from dynaface.core.match.anatomy import anatomy_of

ROWS, COLUMNS = 18, 36  # of directions: from up to down, and about
# Metres of an adult's head: its middle above and ahead of the joint that carries it; skull and jaw as ellipsoids, middle and half sizes from there.
ABOVE, AHEAD = 0.09, 0.01
SKULL = ((0.0, 0.0, 0.0), (0.078, 0.115, 0.1))
JAW = ((0.0, -0.07, 0.04), (0.055, 0.085, 0.07))
INSIDE = 0.7  # of what is about a place, below which a point lies within the head
BLUR = 0.6  # cells over which a mesh is evened out


@dataclass(frozen=True)
class HeadSurface:
    """middle: (3,) metres at rest, in the space of its skeleton; radii: (ROWS, COLUMNS) metres from there to the skin."""

    middle: Array
    radii: Array

    def radius(self, way: Array) -> Array:
        """(n,) metres to the skin in directions (n, 3) of length 1, those of the head at rest."""
        row, column = _cell(way)
        around = np.pad(self.radii, ((0, 0), (1, 1)), "wrap")
        return np.asarray(map_coordinates(around, [np.clip(row, 0, ROWS - 1), column + 1], order=1))

    def describe(self) -> dict[str, Any]:
        """As plain data, to be kept; lengths in tenths of a millimetre."""
        return {
            "middle": [round(float(v), 5) for v in self.middle],
            "radii": np.round(self.radii * 1e4).astype(int).tolist(),
        }


def parse_head_surface(data: Mapping[str, Any]) -> HeadSurface:
    """A surface that was kept."""
    return HeadSurface(np.array(data["middle"], float), np.array(data["radii"], float) / 1e4)


def _cell(way: Array) -> tuple[Array, Array]:
    """Rows and columns (n,), not whole, of directions."""
    row = np.arccos(np.clip(way[:, 1], -1, 1)) / np.pi * ROWS - 0.5
    column = (np.arctan2(way[:, 0], way[:, 2]) / (2 * np.pi) + 0.5) * COLUMNS - 0.5
    return row, column


def directions() -> Array:
    """(ROWS * COLUMNS, 3) those of the middles of all cells."""
    row, column = np.mgrid[:ROWS, :COLUMNS].reshape(2, -1)
    down, about = (row + 0.5) / ROWS * np.pi, ((column + 0.5) / COLUMNS - 0.5) * 2 * np.pi
    return np.stack([np.sin(down) * np.sin(about), np.cos(down), np.sin(down) * np.cos(about)], axis=1)


def surface_of_points(points: Array) -> HeadSurface | None:
    """The surface of a head whose mesh has points (n, 3) at rest; None where there are too few."""
    if len(points) < 50:
        return None
    low, high = np.percentile(points, [2, 98], axis=0)
    middle = (low + high) / 2
    away = points - middle
    far = np.linalg.norm(away, axis=1)
    row, column = _cell(away / np.maximum(far, 1e-9)[:, None])
    radii = np.zeros((ROWS, COLUMNS))
    cells = np.clip(np.round(row).astype(int), 0, ROWS - 1), np.round(column).astype(int) % COLUMNS
    np.maximum.at(radii, cells, far)
    known = radii > 0
    # What lies within a mouth is no skin, and what no point lies in is as what is about it.
    known &= radii > INSIDE * _spread(radii, known)
    return HeadSurface(middle, _blurred(np.where(known, radii, _spread(radii, known)), BLUR))


def _spread(radii: Array, known: NDArray[np.bool_]) -> Array:
    """Radii as they are about each cell, by those that are known."""
    weight, total = (_blurred(v, 1.5) for v in (known.astype(float), np.where(known, radii, 0.0)))
    return np.asarray(total / np.maximum(weight, 1e-6))


def _blurred(values: Array, by: float) -> Array:
    return np.asarray(gaussian_filter(values, by, mode=("nearest", "wrap")))


def adult_head(skeleton: Skeleton) -> HeadSurface | None:
    """The surface that a head is thought to have where nobody knows it; None without a head."""
    joint = anatomy_of(skeleton).joint("head")
    if joint < 0:
        return None
    sizes = [hand.size for hand in hands_of(skeleton).values()]
    size = float(np.mean(sizes)) if sizes else 1.0
    middle = skeleton.global_rest()[1][joint] + np.array([0.0, ABOVE, AHEAD]) * size
    radii = np.max([_through(*part) for part in (SKULL, JAW)], axis=0) * size
    return HeadSurface(middle, radii.reshape(ROWS, COLUMNS))


def _through(middle: tuple[float, ...], half: tuple[float, ...]) -> Array:
    """(cells,) metres from 0 to where each direction leaves an ellipsoid, 0 where it misses it."""
    way, off = directions() / np.array(half), np.array(middle) / np.array(half)
    a, b, c = (way**2).sum(axis=1), way @ off, off @ off - 1
    under = b**2 - a * c
    return np.where(under > 0, np.maximum(b + np.sqrt(np.maximum(under, 0)), 0) / a, 0.0)
