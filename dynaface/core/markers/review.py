"""How far a solve of markers can be believed: by region and frame, and marker by marker."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from dynaface.core.markers.basis import MarkerBasis
from dynaface.core.markers.rigid import FEWEST
from dynaface.core.markers.solve import WILD
from dynaface.core.markers.take import Array
from dynaface.core.shapes.regions import FACE, SHAPES_OF


@dataclass(frozen=True)
class MarkerReport:
    """label; typical, worst: millimetres between solved and seen (median, 99th percentile); seen: share of frames, 0..1."""

    label: str
    typical: float
    worst: float
    seen: float


def typical(residual: Array) -> float:
    """Millimetres between solved and seen, the median of (frames, markers) metres; 0 where nothing was seen."""
    known = residual[np.isfinite(residual)]
    return round(float(np.median(known)) * 1000, 3) if len(known) else 0.0


def belief_by_region(basis: MarkerBasis, residual: Array, fixed: NDArray[np.bool_]) -> NDArray[np.float32]:
    """(frames, regions) 0..1: how well the markers that speak of a region are seen and explained; 0 where none do.

    residual: (frames, markers) metres, NaN where not seen; fixed: (markers,) True for those of the basis that only carry the head.
    """
    trust = 1 / (1 + (np.nan_to_num(residual, nan=np.inf) / WILD) ** 2)
    size = np.linalg.norm(basis.shapes, axis=2) * basis.reported[:, None]
    out = np.zeros((len(trust), len(FACE)), np.float32)
    for number, region in enumerate(FACE):
        share = size[SHAPES_OF[region]].sum(axis=0)
        if share.sum() > 0:
            out[:, number] = trust @ (share / share.sum())
    seen = np.isfinite(residual[:, fixed])
    out[:, FACE.index("head")] = np.minimum(seen.sum(axis=1) / FEWEST, 1) * (
        (trust[:, fixed] * seen).sum(axis=1) / np.maximum(seen.sum(axis=1), 1)
    )
    return out


def worst_markers(labels: tuple[str, ...], residual: Array) -> tuple[MarkerReport, ...]:
    """All markers, the one that fits worst first; residual: (frames, markers) metres, NaN where not seen."""
    out = []
    for number, label in enumerate(labels):
        known = residual[np.isfinite(residual[:, number]), number] * 1000
        typical, worst = (np.median(known), np.quantile(known, 0.99)) if len(known) else (0.0, 0.0)
        out.append(MarkerReport(label, round(float(typical), 3), round(float(worst), 3), len(known) / len(residual)))
    return tuple(sorted(out, key=lambda r: -r.typical))
