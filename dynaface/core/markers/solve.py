"""Weights of the standard shapes from markers: bounded, smooth in time, each marker believed as far as it fits."""

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from dynaface.core.body.rotations import IDENTITY, head_angles, matrix_quaternions
from dynaface.core.curves.channels import Channels
from dynaface.core.errors import InputError
from dynaface.core.markers.basis import MarkerBasis
from dynaface.core.markers.rigid import head_motion, without_head
from dynaface.core.markers.take import Array, MarkerTake
from dynaface.core.numeric.sequence import solve_sequence
from dynaface.core.shapes.standard import HEAD_ANGLES, HEAD_TRAVEL, SHAPES
from dynaface.core.track.travel import travel_of

NOISE = 0.0002  # metres: what a good stage measures to
LEAST_NOISE = 2e-5
RIDGE = 0.02  # how far a weight is held to 0, against what one marker moved by a millimetre says
SPARSE = 0.05  # a small absolute penalty: the fewest shapes that explain it
SMOOTH = 150.0  # against jitter, at 120 fps
WILD = 0.004  # metres: a marker this far from every pose is a swap or a slip
ROUNDS = 3


@dataclass(frozen=True)
class MarkerSolve:
    """channels: weights that are reported, head angles and travel; weights: (frames, 52) all that was solved; residual: (frames, markers)
    metres between solved and seen, NaN where not seen; rotations, shifts: the head's motion from neutral.
    """

    channels: Channels
    weights: Array
    residual: Array
    rotations: Array
    shifts: Array


def noise_of(moved: Array) -> float:
    """Metres of noise in (frames, markers, n): what third differences show beyond motion."""
    third = np.diff(moved, 3, axis=0)
    known = third[np.isfinite(third)]
    return max(float(np.median(np.abs(known))) / 0.6745 / np.sqrt(20), LEAST_NOISE) if known.size else NOISE


def solve_markers(take: MarkerTake, basis: MarkerBasis, fixed_labels: tuple[str, ...], neutral: Array) -> MarkerSolve:
    """The take's weights. neutral: (markers, 3) of all the take's markers in the still face that the basis was made from.

    Raises InputError where too few markers are seen.
    """
    index = [take.labels.index(label) for label in basis.labels]
    is_fixed = np.isin(take.labels, fixed_labels)
    rotations, shifts = head_motion(take.points, neutral, is_fixed)
    if not np.isfinite(rotations).any():
        raise InputError("no frame shows three fixed markers, so the head cannot be taken out")
    rotation, shift = basis.to_head
    still = without_head(take.points[:, index], rotations, shifts) @ rotation.T + shift
    moved = still - basis.neutral
    weights, residual = solve_displacements(moved, basis.shapes, float(take.rate), (basis.own > 0).astype(np.float64))
    shown = np.where(basis.reported, weights, 0.0)
    # Turns are given in the head's own frame, as the general head stands.
    turns = np.einsum("ij,fjk,lk->fil", rotation, rotations, rotation)
    angles = np.stack(head_angles(np.nan_to_num(matrix_quaternions(turns))), axis=1)
    # `shift` carries the stage's place of the head's origin into its own frame, so that is -shift turned back.
    origin = np.einsum("fij,j->fi", rotations, -rotation.T @ shift) + shifts
    travel = travel_of(matrix_quaternions(turns), origin @ rotation.T, IDENTITY)
    values = np.concatenate([shown, angles, travel], axis=1).astype(np.float32)
    lost = ~np.isfinite(rotations[:, 0, 0])
    values[lost] = np.nan
    channels = Channels(SHAPES + HEAD_ANGLES + HEAD_TRAVEL, values, take.rate, 0.0, take.timecode)
    return MarkerSolve(channels, np.where(lost[:, None], np.nan, weights), residual, rotations, shifts)


def solve_displacements(moved: Array, shapes: Array, rate: float, high: Array, unlike: float = LEAST_NOISE
                        ) -> tuple[Array, Array]:  # fmt: skip
    """((frames, 52), residual (frames, markers)) for displacements (frames, markers, n) in metres, NaN where not seen, of shapes
    (52, markers, n), or (frames, 52, markers, n) where they are seen otherwise in each frame; high: (52,) the most each may be;
    unlike: metres by which the shapes are known to be off, where that is more than the noise. n: 3 in space, 2 for one camera.
    """
    frames, markers = moved.shape[:2]
    seen = np.isfinite(moved[..., 0])
    filled = np.where(seen[..., None], moved, 0.0)
    noise = max(noise_of(moved), unlike)
    trust = seen.astype(np.float64)
    weights = np.zeros((frames, len(SHAPES)))
    rows = np.moveaxis(shapes, -3, -1)  # ([frames,] markers, n, 52)
    equations = _always(rows) if rows.ndim == 3 else _by_frame(rows)
    quiet = (noise / NOISE) ** 2
    held = RIDGE * quiet * np.eye(len(SHAPES))
    residual = np.full((frames, markers), np.nan)
    for _ in range(ROUNDS):
        a, b = equations(trust, filled)
        smooth = np.full(len(SHAPES), SMOOTH * quiet * (rate / 120) ** 4)
        weights = solve_sequence(a + held, b - SPARSE * quiet, weights, smooth, high=high, sweeps=200, tolerance=1e-7)
        solved = np.einsum("fi,mki->fmk" if rows.ndim == 3 else "fi,fmki->fmk", weights, rows, optimize=True)
        residual = np.where(seen, np.linalg.norm(filled - solved, axis=2), np.nan)
        trust = np.where(seen, 1 / (1 + (np.nan_to_num(residual) / WILD) ** 2) ** 2, 0.0)
    return weights, residual


Told = Callable[[Array, Array], tuple[Array, Array]]


def _always(rows: Array) -> Told:
    """Normal equations (a, b), in millimetres, for shapes (markers, n, 52) that are the same in every frame."""
    each = np.einsum("mki,mkj->mij", rows, rows) * 1e6

    def equations(trust: Array, moved: Array) -> tuple[Array, Array]:
        a = np.einsum("fm,mij->fij", trust, each, optimize=True)
        return a, np.einsum("fm,fmk,mki->fi", trust, moved, rows, optimize=True) * 1e6

    return equations


def _by_frame(rows: Array) -> Told:
    """The same for shapes (frames, markers, n, 52), as a turning head shows them."""
    frames, markers, n, _ = rows.shape
    flat = rows.reshape(frames, markers * n, -1)

    def equations(trust: Array, moved: Array) -> tuple[Array, Array]:
        weighed = (flat * np.repeat(trust, n, axis=1)[..., None]).transpose(0, 2, 1) * 1e6
        return weighed @ flat, (weighed @ moved.reshape(frames, -1, 1))[..., 0]

    return equations
