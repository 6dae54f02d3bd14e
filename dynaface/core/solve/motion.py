"""Dense motion of the skin against the neutral picture."""

from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from dynaface.core.solve.reference import TALL, WIDE, EvenLight, Reference
from dynaface.core.track.head import Array

WINDOW = (11, 11)


@dataclass(frozen=True)
class Seen:
    """pixels: (points, 2) where in the picture each measured point is; likeness: (points,) -1..1 of the skin around it
    to the neutral picture after its motion was taken out.
    """

    pixels: Array
    likeness: Array


def _at(image: NDArray[np.float32], places: NDArray[np.float32]) -> NDArray[np.float32]:
    """Values of an image (height, width[, k]) at places (n, 2), between pixels; -1 beside it."""
    found = cv2.remap(image, places[:, None, 0], places[:, None, 1], cv2.INTER_LINEAR, borderValue=(-1, -1))
    return np.asarray(found[:, 0], np.float32)


class MotionFinder:
    """Measures motion in the reference by dense inverse search (Kroeger et al. 2016)."""

    def __init__(self, reference: Reference) -> None:
        self.reference = reference
        self._flow = cv2.DISOpticalFlow.create(cv2.DISOPTICAL_FLOW_PRESET_MEDIUM)
        self._flow.setFinestScale(1)
        self._flow.setVariationalRefinementIterations(2)
        mask = np.zeros((TALL, WIDE), np.float32)
        mask[reference.where[:, 0], reference.where[:, 1]] = 1
        self._mask = mask
        self._even = EvenLight(mask)
        self._neutral = self._even(reference.picture)
        y, x = np.mgrid[0:TALL, 0:WIDE].astype(np.float32)
        self._place = np.stack([x, y], axis=-1)

    def carried(self, picture: NDArray[np.uint8], maps: NDArray[np.float32]) -> NDArray[np.float32]:
        """A grey picture (height, width) carried into the reference by maps (rows, columns, 2) in pixels."""
        return cv2.remap(picture, maps[..., 0], maps[..., 1], cv2.INTER_LINEAR, borderValue=0).astype(np.float32)

    def find(self, picture: NDArray[np.uint8], pixels: Array) -> Seen:
        """picture: (height, width) grey; pixels: (vertices, 2) where the surface is thought to be."""
        maps = self.reference.maps(pixels)
        now = self._even(self.carried(picture, maps))
        flow = self._flow.calc(self._neutral.astype(np.uint8), now.astype(np.uint8), None)
        row, column = self.reference.where[self.reference.points].T
        own = flow[row, column]
        there = np.stack([column, row], axis=1).astype(np.float32) + own
        moved = _at(maps, there)
        # Beside the face there is no map: there the motion is carried over by the slope of the map at the point.
        known = (moved > 0).all(axis=1) & (_at(self._mask, there) > 0.99)
        across = (maps[row, column + 1] - maps[row, column - 1]) / 2
        along = (maps[row + 1, column] - maps[row - 1, column]) / 2
        carried = maps[row, column] + across * own[:, :1] + along * own[:, 1:]
        found = np.where(known[:, None], moved, carried).astype(np.float64)
        whole = self._place + flow
        aligned = cv2.remap(now, whole[..., 0], whole[..., 1], cv2.INTER_LINEAR, borderValue=128)
        return Seen(found, self._alike(aligned)[row, column])

    def _alike(self, other: NDArray[np.float32]) -> Array:
        """Correlation of windows of 11 px."""
        a, b = self._neutral - 128, other - 128
        mean_a, mean_b, cross, one, two = (cv2.blur(i, WINDOW) for i in (a, b, a * b, a * a, b * b))
        spread = np.sqrt(np.maximum((one - mean_a**2) * (two - mean_b**2), 1))
        return np.asarray(np.clip((cross - mean_a * mean_b) / spread, -1, 1), np.float64)
