"""What the standard shapes do to the general head, seen coarsely: what other faces are compared with."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from dynaface.core.cast.geometry import areas
from dynaface.core.shapes.standard import SHAPES
from dynaface.core.track.head import Head

Array = NDArray[np.float64]
PLACES = 260
NEAR, WIDE = 0.007, 0.020  # metres on the general head: the two widths that motion is averaged over


@dataclass(frozen=True)
class StandardFace:
    """In metres about the middle of the eyes. places: (PLACES, 3) spread over what moves; features: (52, PLACES, 3) twice,
    as `features_at` gives them at NEAR and WIDE; centres: (52, 3) where each shape's motion is; middle, spread: (3,) of
    all motion together.
    """

    places: Array
    near: Array
    wide: Array
    centres: Array
    middle: Array
    spread: Array


def spread_places(points: Array, count: int) -> Array:
    """(count, 3) of the points, each as far from the others as can be."""
    chosen = [int(np.argmax(points[:, 2]))]
    away = np.linalg.norm(points - points[chosen[0]], axis=1)
    while len(chosen) < count:
        chosen.append(int(np.argmax(away)))
        away = np.minimum(away, np.linalg.norm(points - points[chosen[-1]], axis=1))
    return points[chosen]


def features_at(places: Array, width: float, points: Array, area: Array, offsets: Array) -> Array:
    """(targets, places, 3) mean offset about each place, by area under a bell of a width; points (n, 3), offsets
    (targets, n, 3). Where there is no surface near, motion fades to 0.
    """
    near = np.flatnonzero(np.abs(offsets).max(axis=(0, 2), initial=0) > 0) if len(offsets) else np.arange(0)
    square = ((places**2).sum(1)[:, None] + (points**2).sum(1)[None] - 2 * places @ points.T).clip(0)
    bell = (np.exp(-square / (2 * width**2)) * area).astype(np.float32)
    total = bell.sum(axis=1)
    bell = bell[:, near] / (total + 0.05 * np.median(total) + 1e-20)[:, None]
    moved = offsets[:, near].transpose(1, 0, 2).reshape(len(near), -1).astype(np.float32)
    out = (bell @ moved).reshape(len(places), len(offsets), 3)
    return np.asarray(out.transpose(1, 0, 2), np.float64)


def motion_of(points: Array, area: Array, offsets: Array) -> tuple[Array, Array, Array]:
    """(targets, 3) centre of each target's motion, and (3,) middle and spread of all together, each target alike."""
    energy = (offsets**2).sum(axis=2) * area
    energy /= np.maximum(energy.sum(axis=1, keepdims=True), 1e-30)
    centres = energy @ points
    total = energy.mean(axis=0)
    middle = total @ points
    return centres, middle, np.sqrt(total @ (points - middle) ** 2)


def standard_face(head: Head) -> StandardFace:
    """Measures the general head."""
    area = areas(head.points, head.triangles.astype(np.int64))
    moving = np.abs(head.shapes).max(axis=(0, 2)) > 5e-4
    places = spread_places(head.points[moving & (area > 0)], PLACES)
    assert len(head.shapes) == len(SHAPES)
    centres, middle, spread = motion_of(head.points, area, head.shapes)
    near, wide = (features_at(places, w, head.points, area, head.shapes) for w in (NEAR, WIDE))
    return StandardFace(places, near, wide, centres, middle, spread)
