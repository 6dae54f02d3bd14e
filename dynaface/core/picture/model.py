"""A character as pictures need it: its meshes, what each looks like, and where they are in a frame."""

from collections.abc import Mapping
from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numba import njit
from numpy.typing import NDArray

from dynaface.core.picture.draw import Paint

Array = NDArray[np.float64]
Ints = NDArray[np.int64]
HELD_BY = 4
WELDED = 5  # decimals of a metre by which vertices are one


@dataclass(frozen=True)
class Skin:
    """Which joints hold vertices: joints (v, 4), weights (v, 4), and what takes points to the bind pose (4, 4)."""

    joints: Ints
    weights: Array
    placed: Array


@dataclass(frozen=True)
class Mesh:
    """name; points, normals: (v, 3) at rest; places: (v, 2) on pictures; triangles: (t, 3); parts: (first triangle, stop, what it looks like); offsets: target ->
    (v, 3); skin: None for one that no joint holds.
    """

    name: str
    points: Array
    normals: Array
    places: Array
    triangles: Ints
    parts: tuple[tuple[int, int, Paint], ...]
    offsets: Mapping[str, Array]
    skin: Skin | None = None

    @cached_property
    def stacked(self) -> Array:
        """(targets, v * 3) all offsets."""
        return np.stack([o.ravel() for o in self.offsets.values()]) if self.offsets else np.zeros((0, self.points.size))

    @cached_property
    def welds(self) -> Ints:
        """(v,) number of the place at which each vertex lies at rest: edges of pictures split vertices that are one."""
        return np.unique(np.round(self.points, WELDED), axis=0, return_inverse=True)[1].reshape(-1).astype(np.int64)

    @cached_property
    def smooth(self) -> Array:
        """(v, 3) normals that the triangles have at rest."""
        return smooth_normals(self.points, self.triangles, self.welds)

    def posed(self, weights: Mapping[str, float], carried: Array | None) -> tuple[Array, Array]:
        """(points, normals) (v, 3) with weights of targets. carried: (joints, 4, 4) from the bind pose to where each joint is; None: at rest."""
        points, normals = self.points, self.normals
        own = np.array([weights.get(t, 0.0) for t in self.offsets])
        used = np.flatnonzero(own)
        if len(used):
            points = points + (own[used] @ self.stacked[used]).reshape(-1, 3)
            # What shapes do to the smooth normals is done to those of the file, which may have hard edges.
            normals = normals + smooth_normals(points, self.triangles, self.welds) - self.smooth
        if self.skin is None or carried is None:
            return points, normals
        return _skinned(points, normals, self.skin.joints, self.skin.weights, carried @ self.skin.placed)


def smooth_normals(points: Array, triangles: Ints, welds: Ints) -> Array:
    """(v, 3) of length 1, by the area of the triangles about each place."""
    a, b, c = (points[triangles[:, k]] for k in range(3))
    across = np.cross(b - a, c - a)
    at = welds[triangles]
    count = int(welds.max()) + 1 if len(welds) else 0
    total = np.zeros((count, 3))
    for axis in range(3):
        total[:, axis] = np.bincount(at.ravel(), np.repeat(across[:, axis], 3), count)
    length = np.linalg.norm(total, axis=1, keepdims=True)
    total = np.divide(total, length, out=np.zeros_like(total), where=length > 1e-12)
    return total[welds]


@njit(nogil=True, cache=True)
def _skinned(points, normals, joints, weights, carried):  # type: ignore[no-untyped-def]
    out, turned = np.empty_like(points), np.empty_like(normals)
    for v in range(len(points)):
        for axis in range(3):
            at = 0.0
            to = 0.0
            for k in range(HELD_BY):
                weight = weights[v, k]
                if weight == 0:
                    continue
                m = carried[joints[v, k]]
                at += weight * (
                    m[axis, 0] * points[v, 0] + m[axis, 1] * points[v, 1] + m[axis, 2] * points[v, 2] + m[axis, 3]
                )
                to += weight * (m[axis, 0] * normals[v, 0] + m[axis, 1] * normals[v, 1] + m[axis, 2] * normals[v, 2])
            out[v, axis] = at
            turned[v, axis] = to
    return out, turned
