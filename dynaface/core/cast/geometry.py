"""What a character's meshes look like at rest and how each target moves them."""

from collections.abc import Mapping
from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]
Faces = NDArray[np.int64]


@dataclass(frozen=True)
class MeshGeometry:
    """mesh: its name; points: (vertices, 3) at rest in the character's own space; offsets: target -> (vertices, 3);
    triangles: (triangles, 3) vertices; held: joint -> (vertices,) how much it holds each vertex, for a skinned mesh.
    """

    mesh: str
    points: Array
    offsets: Mapping[str, Array]
    triangles: Faces = field(default_factory=lambda: np.zeros((0, 3), np.int64))
    held: Mapping[str, Array] = field(default_factory=dict)


@dataclass(frozen=True)
class Geometry:
    """meshes; animated: (mesh, animation) pairs that already move by an animation in the file; twice: (mesh, target)
    names that a mesh has more than once, of which only the first is kept.
    """

    meshes: tuple[MeshGeometry, ...]
    animated: tuple[tuple[str, str], ...] = ()
    twice: tuple[tuple[str, str], ...] = ()

    @property
    def size(self) -> Array:
        """(3,) extent along x, y, z of everything at rest; zeros where there is nothing."""
        parts = [m.points for m in self.meshes if len(m.points)]
        if not parts:
            return np.zeros(3)
        low = np.min([p.min(axis=0) for p in parts], axis=0)
        return np.asarray(np.max([p.max(axis=0) for p in parts], axis=0) - low)

    @property
    def face(self) -> MeshGeometry | None:
        """The mesh with most targets; of equal ones the finer. Teeth and tongue have fewer."""
        moving = [m for m in self.meshes if m.offsets]
        return max(moving, key=lambda m: (len(m.offsets), len(m.points))) if moving else None


def areas(points: Array, triangles: Faces) -> Array:
    """(vertices,) the area that each vertex stands for; all alike where there are no triangles."""
    if not len(triangles):
        return np.ones(len(points))
    a, b, c = (points[triangles[:, i]] for i in range(3))
    third = np.linalg.norm(np.cross(b - a, c - a), axis=1) / 6
    return np.asarray(np.bincount(triangles.ravel(), np.repeat(third, 3), len(points)), np.float64)
