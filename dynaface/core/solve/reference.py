"""The performer's neutral face seen straight on: a fixed picture in which the motion of the skin is measured.

Each pixel of the reference is a place on the surface. A picture is carried into it through where the surface is thought
to be; what then still moves against the neutral picture is the error of that thought, point by point.
"""

from dataclasses import dataclass

import cv2
import numpy as np
from numba import njit
from numpy.typing import NDArray

from dynaface.core.track.head import EYES, SKIN, Array, Head, vertex_normals
from dynaface.core.track.surface import surface_at

PIXEL = 0.00058  # metres
WIDE, TALL = 280, 376
TOP = 0.088  # metres above the eyes
STEP, FINE = 8, 4  # pixels between measured points, and round mouth and eyes, where small motion says much


@dataclass(frozen=True)
class Reference:
    """corners: (pixels, 3) vertices and weights: (pixels, 3) of each pixel on the face, at `where`: (pixels, 2) row and
    column; points: numbers of the pixels at which motion is measured; picture: (TALL, WIDE) float32 of the neutral face.
    """

    corners: NDArray[np.int32]
    weights: NDArray[np.float32]
    where: NDArray[np.int32]
    points: NDArray[np.int64]
    picture: NDArray[np.float32]

    def on(self, values: Array) -> Array:
        """Values of the vertices (..., vertices, k) at the measured points (..., points, k)."""
        corners, weights = self.corners[self.points], self.weights[self.points]
        return (values[..., corners, :] * weights[..., None].astype(np.float64)).sum(axis=-2)

    def maps(self, pixels: Array) -> NDArray[np.float32]:
        """(TALL, WIDE, 2) where in a picture each reference pixel lies; pixels: (vertices, 2). -1 beside the face."""
        out = np.full((TALL, WIDE, 2), -1, np.float32)
        _carry(pixels.astype(np.float32), self.corners, self.weights, self.where, out)
        return out


@njit(cache=True)
def _carry(pixels, corners, weights, where, out):  # type: ignore[no-untyped-def]
    for n in range(len(corners)):
        y, x = where[n, 0], where[n, 1]
        for k in range(2):
            total = np.float32(0)
            for c in range(3):
                total += weights[n, c] * pixels[corners[n, c], k]
            out[y, x, k] = total


def layout(head: Head, points: Array) -> Reference:
    """The reference of a neutral head (vertices, 3), still without a picture."""
    used = np.flatnonzero((head.part == SKIN) | (head.part == EYES))
    triangles = head.triangles[used]
    screen = np.stack([points[:, 0] / PIXEL + WIDE / 2, (TOP - points[:, 1]) / PIXEL], axis=1)
    number, weights = surface_at(screen, points[:, 2], triangles, (TALL, WIDE))
    facing = vertex_normals(points, head.triangles[head.part == SKIN])[:, 2]
    flat = (facing[triangles[number]] * weights).sum(axis=-1)
    skin = (number >= 0) & (head.part[used[number]] == SKIN) & (flat > 0.25)
    chin = points[:, 1] > _chin(head, points) - 0.004
    skin &= chin[triangles[number]].all(axis=-1)
    # The brows stand below the hair: what is higher hardly moves, and hair has a motion of its own.
    skin = cv2.erode(skin.astype(np.uint8), np.ones((3, 3), np.uint8)) > 0
    rows, columns = np.nonzero(skin)
    x, y = (columns - WIDE / 2) * PIXEL, TOP - rows * PIXEL
    mouth = (np.abs(x) < 0.034) & (y < -0.042) & (y > -0.098)
    eyes = (np.abs(y) < 0.017) & (np.abs(x) > 0.012) & (np.abs(x) < 0.046)
    step = np.where(mouth | eyes, FINE, STEP)
    grid = (rows % step == 0) & (columns % step == 0)
    inner = cv2.erode(skin.astype(np.uint8), np.ones((5, 5), np.uint8))[rows, columns] > 0
    return Reference(
        triangles[number[rows, columns]],
        weights[rows, columns].astype(np.float32),
        np.stack([rows, columns], axis=1).astype(np.int32),
        np.flatnonzero(grid & inner),
        np.zeros((TALL, WIDE), np.float32),
    )


def _chin(head: Head, points: Array) -> float:
    """Height of the chin: the lowest place in the middle that still comes forward."""
    middle = np.unique(head.triangles[head.part == SKIN])
    middle = middle[(np.abs(points[middle, 0]) < 0.006) & (points[middle, 1] < -0.05)]
    forward = middle[points[middle, 2] > points[middle, 2].max() - 0.035]
    return float(points[forward, 1].min())


def _wide(image: NDArray[np.float32], size: float) -> NDArray[np.float32]:
    """A wide blur, worked out on a quarter of the size."""
    small = cv2.resize(image, (WIDE // 4, TALL // 4), interpolation=cv2.INTER_AREA)
    return cv2.resize(cv2.GaussianBlur(small, (0, 0), size / 4), (WIDE, TALL), interpolation=cv2.INTER_LINEAR)


class EvenLight:
    """Takes large-scale light and contrast out of grey pictures of the reference, within a mask: 0..255 about 128."""

    def __init__(self, mask: NDArray[np.float32]) -> None:
        self._mask = mask
        self._near = np.maximum(_wide(mask, 12), 1e-2)
        self._far = np.maximum(_wide(mask, 18), 1e-2)

    def __call__(self, picture: NDArray[np.float32]) -> NDArray[np.float32]:
        """The evened picture."""
        flat = (picture - _wide(picture * self._mask, 12) / self._near) * self._mask
        spread = np.sqrt(np.maximum(_wide(np.square(flat, dtype=np.float32), 18), 0) / self._far)
        return np.clip(128 + 34 * flat / (spread + 2.5), 0, 255)
