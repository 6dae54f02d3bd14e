"""Markers put right by a first solve: changed names, names that were lost, slips and gaps.

The solve says where each marker of the layout must be; what is far from there is compared with the others that are, and with
markers that have no name. What nobody can explain is a slip. Gaps are filled by the solve, joined to what was seen.
"""

from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray
from scipy.optimize import linear_sum_assignment

from dynaface.core.curves.known_runs import runs
from dynaface.core.markers.basis import MarkerBasis
from dynaface.core.markers.solve import WILD, MarkerSolve
from dynaface.core.markers.take import Array, MarkerTake

NEAR = 0.003  # metres: a marker this near to where another must be is that other
BETTER = 0.5  # and this much nearer than what bears the name
SLIP = 0.008  # metres: farther from where it must be than any face differs from its basis
SWAP, UNNAMED, SLIPPED, GAP = KINDS = ("swap", "unnamed", "slip", "gap")


@dataclass(frozen=True)
class Repair:
    """kind: one of KINDS; label: the marker that was put right; other: whose samples it got, "" for none; first, last: frames."""

    kind: str
    label: str
    other: str
    first: int
    last: int


@dataclass(frozen=True)
class Mended:
    """take: the layout's markers under their right names, NaN where not seen; filled: (frames, markers, 3) the same without gaps
    inside; gaps: (frames, markers) True where a sample was filled in; repairs: what was done, in order of time.
    """

    take: MarkerTake
    filled: Array
    gaps: NDArray[np.bool_]
    repairs: tuple[Repair, ...]


def expected(basis: MarkerBasis, made: MarkerSolve) -> Array:
    """(frames, markers, 3) where the solve says that each marker of the basis is, in the take's own space."""
    rotation, shift = basis.to_head
    still = (basis.neutral + np.einsum("fs,smk->fmk", made.weights, basis.shapes, optimize=True) - shift) @ rotation
    return np.einsum("fij,fmj->fmi", made.rotations, still) + made.shifts[:, None]


def mend_names(take: MarkerTake, basis: MarkerBasis, made: MarkerSolve) -> tuple[MarkerTake, tuple[Repair, ...]]:
    """The layout's markers of the take under their right names, and what was changed."""
    index = [take.labels.index(label) for label in basis.labels]
    spare = [i for i in range(len(take.labels)) if i not in index]
    where = expected(basis, made)
    points = take.points[:, index].copy()
    away = np.linalg.norm(points - where, axis=2)
    source = np.tile(np.arange(len(index)), (take.frames, 1))
    lost = ~np.isfinite(points[..., 0])
    doubtful = (away > WILD) | (lost & np.isfinite(where[..., 0]))
    for frame in np.flatnonzero(doubtful.any(axis=1)):
        needy = np.flatnonzero(doubtful[frame])
        given = np.concatenate([points[frame, needy], take.points[frame, spare]])
        names = np.concatenate([needy, len(index) + np.arange(len(spare))]).astype(int)
        had = np.isfinite(given[:, 0])
        apart = np.linalg.norm(given[had][None] - where[frame, needy][:, None], axis=2)
        rows, columns = linear_sum_assignment(np.minimum(apart, 10 * NEAR)) if had.any() else ([], [])
        taken = np.full((len(needy), 3), np.nan)
        for row, column in zip(rows, columns, strict=True):
            marker, distance = needy[row], apart[row, column]
            own = away[frame, marker] if np.isfinite(away[frame, marker]) else np.inf
            if distance < NEAR and distance < BETTER * own:
                source[frame, marker] = names[had][column]
                taken[row] = given[had][column]
        given_away = {int(source[frame, m]) for m in needy if source[frame, m] != m}
        for row, marker in enumerate(needy):
            if source[frame, marker] != marker:
                points[frame, marker] = taken[row]
            elif marker in given_away or away[frame, marker] > SLIP:
                points[frame, marker] = np.nan
                if np.isfinite(away[frame, marker]):
                    source[frame, marker] = -1
    named = [*basis.labels, *(take.labels[i] for i in spare)]
    return replace(take, labels=basis.labels, points=points), _changes(basis.labels, named, source)


def _changes(labels: tuple[str, ...], named: list[str], source: NDArray[np.int_]) -> tuple[Repair, ...]:
    out = []
    for marker, label in enumerate(labels):
        for other in set(source[:, marker].tolist()) - {marker}:
            kind = SLIPPED if other < 0 else SWAP if other < len(labels) else UNNAMED
            spans = runs(source[:, marker] == other)
            out += [Repair(kind, label, "" if other < 0 else named[other], a, b - 1) for a, b in spans]
    return tuple(sorted(out, key=lambda r: (r.first, r.label)))


def fill_gaps(take: MarkerTake, basis: MarkerBasis, made: MarkerSolve, repairs: tuple[Repair, ...] = ()) -> Mended:
    """The gaps of the layout's markers filled by the solve; what the solve and the marker differ by at both ends of a gap is
    carried across it. take: as from `mend_names`.
    """
    where = expected(basis, made)
    filled, gaps = take.points.copy(), ~np.isfinite(take.points[..., 0])
    differ = take.points - where
    out = list(repairs)
    for marker, label in enumerate(take.labels):
        known = np.flatnonzero(np.isfinite(differ[:, marker, 0]))
        if not len(known):
            continue
        hole = np.flatnonzero(gaps[:, marker] & np.isfinite(where[:, marker, 0]))
        for axis in range(3):
            filled[hole, marker, axis] = where[hole, marker, axis] + np.interp(hole, known, differ[known, marker, axis])
        out += [Repair(GAP, label, "", a, b - 1) for a, b in runs(gaps[:, marker])]
    gaps = gaps & np.isfinite(filled[..., 0])
    return Mended(take, filled, gaps, tuple(sorted(out, key=lambda r: (r.first, r.label))))
