"""A camera that looks at a place, and where it sees points."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]
NEAR = 0.02  # metres before the camera at which surfaces begin


@dataclass(frozen=True)
class Camera:
    """at, target: (3,) metres, y up; lens: degrees from the lower to the upper edge; size: (width, height) pixels."""

    at: Array
    target: Array
    lens: float
    size: tuple[int, int]

    @property
    def ahead(self) -> Array:
        """(3,) of length 1, where it looks."""
        way = self.target - self.at
        return np.asarray(way / np.linalg.norm(way))

    def sees(self, points: Array) -> Array:
        """(n, 3) of places (n, 3): x and y in pixels from the upper left corner, and one divided by metres before the camera, 0 or less for
        what is behind it.
        """
        ahead = self.ahead
        side = np.cross(ahead, [0.0, 1.0, 0.0])
        side = side / max(float(np.linalg.norm(side)), 1e-9)
        above = np.cross(side, ahead)
        since = points - self.at
        depth = since @ ahead
        width, height = self.size
        scale = height / 2 / np.tan(np.radians(self.lens) / 2)
        near = 1 / np.maximum(depth, NEAR)
        out = np.empty((len(points), 3))
        out[:, 0] = width / 2 + since @ side * scale * near
        out[:, 1] = height / 2 - since @ above * scale * near
        out[:, 2] = np.where(depth > NEAR, near, 0.0)
        return out


def framing(
    centre: Array, height: float, width: float, lens: float, size: tuple[int, int], turn: float = 0.0
) -> Camera:
    """A camera before a place that sees so many metres of height and width about it. turn: degrees by which it goes to its right about the place."""
    half = np.tan(np.radians(lens) / 2)
    away = max(height, width * size[1] / size[0]) / 2 / half
    angle = np.radians(turn)
    return Camera(centre + away * np.array([np.sin(angle), 0.0, np.cos(angle)]), centre, lens, size)
