"""The general human head: a surface with the 52 standard shapes and the ways in which people's heads differ."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]
SKIN, EYES, LASHES, TEETH, TONGUE = range(5)
LIPS, LIDS, INSIDE, BROWS = range(4)  # layers


@dataclass(frozen=True)
class Head:
    """In metres about the middle of the eyes; +x the person's left, +y up, +z the way the face looks.

    points: (vertices, 3) at rest; triangles: (triangles, 3) vertices, counter-clockwise from outside; part:
    (triangles,) SKIN .. TONGUE; uv: (corners, 2) in 0..1, v up; triangle_uv: (triangles, 3) corners; eyes: (2, 3)
    centres of the left and right eyeball; shapes: (52, vertices, 3) offsets of the standard shapes in their order;
    modes: (modes, vertices, 3) offsets of likeness by mode_names; layers: (7, size, size) painted amounts uint8:
    lips, lids, inside of the mouth, brows, blush, hair, eye sockets.
    """

    points: Array
    triangles: NDArray[np.int32]
    part: NDArray[np.int8]
    uv: Array
    triangle_uv: NDArray[np.int32]
    eyes: Array
    shapes: Array
    modes: Array
    mode_names: tuple[str, ...]
    layers: NDArray[np.uint8]


def eyeballs(head: Head) -> tuple[NDArray[np.int32], NDArray[np.int32]]:
    """Numbers (n,) of the vertices of the left and of the right eyeball."""
    own = np.unique(head.triangles[head.part == EYES])
    return own[head.points[own, 0] > 0], own[head.points[own, 0] < 0]


def vertex_normals(points: Array, triangles: NDArray[np.int32]) -> Array:
    """(vertices, 3) area-weighted unit normals."""
    a, b, c = (points[triangles[:, i]] for i in range(3))
    face = np.cross(b - a, c - a)
    out = np.stack([np.bincount(triangles.ravel(), np.repeat(face[:, k], 3), len(points)) for k in range(3)], axis=1)
    return out / np.maximum(np.linalg.norm(out, axis=1, keepdims=True), 1e-15)
