"""What is known of faces before any picture: weights are small and few, both sides go together, eyes turn as one."""

import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import maximum_filter1d

from dynaface.core.shapes.regions import REGION
from dynaface.core.shapes.standard import SHAPES, mirrored
from dynaface.core.solve.equations import Equations
from dynaface.core.track.head import Array

RIDGE, SIDES, GAZE, SMOOTH = 120.0, 800.0, 1500.0, 8000.0
LIDS_SEEN = 150.0  # in place of SIDES for lids that are followed one by one: people wink
SPARSE = 0.001  # weight by which each shape is held back, whatever its size in the picture
FAINT = 30.0  # and a little more for those that hardly show
ABOUT = 0.5  # seconds about a moment in which a shape counts as shown
_HARDER = {"jawForward": 2.0}  # it goes toward the camera, which hardly sees it
_FREE = tuple(s for s in SHAPES if s.startswith(("eyeLook", "eyeBlink")))
_CONJUGATE = (("eyeLookOutLeft", "eyeLookInRight"), ("eyeLookInLeft", "eyeLookOutRight"),
              ("eyeLookUpLeft", "eyeLookUpRight"), ("eyeLookDownLeft", "eyeLookDownRight"))  # fmt: skip
_TWO_SIDED = [s for s in SHAPES if s.endswith("Left") and not s.startswith(("eyeLook", "jawLeft", "mouthLeft"))]


def sides_alike() -> Array:
    """(52, 52) symmetric: what it costs, squared, that the two sides of a face differ."""
    a = np.zeros((len(SHAPES), len(SHAPES)))
    for one in _TWO_SIDED:
        i, j = SHAPES.index(one), SHAPES.index(mirrored(one))
        a[[i, j], [i, j]] += 1
        a[[i, j], [j, i]] -= 1
    return a


def prior(blinks: float = SIDES) -> Equations:
    """Equations (52,) to be added to a frame's; blinks: how firmly both lids go together."""
    a = np.eye(len(SHAPES)) * RIDGE
    pairs = [(s, mirrored(s), blinks if s == "eyeBlinkLeft" else SIDES) for s in _TWO_SIDED]
    for one, other, weight in [*pairs, *((x, y, GAZE) for x, y in _CONJUGATE)]:
        i, j = SHAPES.index(one), SHAPES.index(other)
        a[[i, j], [i, j]] += weight
        a[[i, j], [j, i]] -= weight
    return Equations(a, np.zeros(len(SHAPES)))


def sparseness(a: Array) -> Array:
    """(..., 52) by which b is lowered for equations a (..., 52, 52): a small absolute penalty in units of weight."""
    held = np.array([0.0 if s in _FREE else SPARSE * _HARDER.get(s, 1.0) for s in SHAPES])
    return held * (np.diagonal(a, axis1=-2, axis2=-1) + FAINT / SPARSE)


def fewer(a: NDArray[np.floating], weights: Array, rate: float) -> Array:
    """(frames, 52) by how much more than `sparseness` b is lowered once weights (frames, 52) are known: shapes that show
    nothing about a moment are held back more, those that clearly show less (reweighted l1, Candes, Wakin and Boyd 2008).
    """
    about = maximum_filter1d(weights, round(rate * ABOUT) | 1, axis=0)
    eyes = np.array([REGION[s] == "lids" for s in SHAPES])
    most, half = np.where(eyes, 1.5, 4.0), np.where(eyes, 0.05, 0.1)
    return sparseness(np.asarray(a, np.float64)) * (most * half / (about + half) - 1)


def smoothness() -> np.ndarray:
    """(52,) stiffness of second differences in time at 30 fps; eyes are quick, blinks more so."""
    quick = {"eyeBlinkLeft": 0.02, "eyeBlinkRight": 0.02}
    return np.array([SMOOTH * quick.get(s, 0.2 if s.startswith("eye") else 1.0) for s in SHAPES])
