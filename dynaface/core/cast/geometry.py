"""What a character's meshes look like at rest and how each target moves them."""

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]


@dataclass(frozen=True)
class MeshGeometry:
    """mesh: its name; points: (vertices, 3) at rest in the character's own space; offsets: target -> (vertices, 3)."""

    mesh: str
    points: Array
    offsets: Mapping[str, Array]


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
