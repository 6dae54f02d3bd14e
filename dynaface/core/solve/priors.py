"""What is known of faces before any picture: weights are small and few, both sides go together, eyes turn as one."""

import numpy as np

from dynaface.core.shapes.standard import SHAPES, mirrored
from dynaface.core.solve.equations import Equations
from dynaface.core.track.head import Array

RIDGE, SIDES, GAZE, SMOOTH = 80.0, 400.0, 600.0, 3000.0
SPARSE = 0.005  # weight by which each shape is held back, whatever its size in the picture
FAINT = 30.0  # and a little more for those that hardly show
_HARDER = {"jawForward": 2.0}  # it goes toward the camera, which hardly sees it
_FREE = tuple(s for s in SHAPES if s.startswith(("eyeLook", "eyeBlink")))
_CONJUGATE = (("eyeLookOutLeft", "eyeLookInRight"), ("eyeLookInLeft", "eyeLookOutRight"),
              ("eyeLookUpLeft", "eyeLookUpRight"), ("eyeLookDownLeft", "eyeLookDownRight"))  # fmt: skip


def prior() -> Equations:
    """Equations (52,) to be added to a frame's."""
    a = np.eye(len(SHAPES)) * RIDGE
    pairs = [(s, mirrored(s), SIDES) for s in SHAPES
             if s.endswith("Left") and not s.startswith(("eyeLook", "jawLeft", "mouthLeft"))]  # fmt: skip
    for one, other, weight in [*pairs, *((x, y, GAZE) for x, y in _CONJUGATE)]:
        i, j = SHAPES.index(one), SHAPES.index(other)
        a[[i, j], [i, j]] += weight
        a[[i, j], [j, i]] -= weight
    return Equations(a, np.zeros(len(SHAPES)))


def sparseness(a: Array) -> Array:
    """(..., 52) by which b is lowered for equations a (..., 52, 52): a small absolute penalty in units of weight."""
    held = np.array([0.0 if s in _FREE else SPARSE * _HARDER.get(s, 1.0) for s in SHAPES])
    return held * (np.diagonal(a, axis1=-2, axis2=-1) + FAINT / SPARSE)


def smoothness() -> np.ndarray:
    """(52,) stiffness of second differences in time at 30 fps; lids are quick."""
    return np.array([SMOOTH * (0.2 if s.startswith("eye") else 1.0) for s in SHAPES])
