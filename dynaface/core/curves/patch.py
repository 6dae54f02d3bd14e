"""Replacing a stretch of a curve by what lies beside it."""

import numpy as np
from numpy.typing import NDArray

from dynaface.core.curves.channels import Floats
from dynaface.core.curves.known_runs import runs

EDGE_FRAMES = 4  # frames to either side from which value and slope are taken


def _edge(values: NDArray[np.float64], known: NDArray[np.bool_], at: int, way: int) -> tuple[float, float] | None:
    """(value, slope a frame) at the known frame `at`, by a line through the frames beyond it."""
    frames = [f for f in range(at, at + way * EDGE_FRAMES, way) if 0 <= f < len(values) and known[f]]
    if not frames or frames[0] != at:
        return None
    if len(frames) == 1:
        return float(values[at]), 0.0
    x = np.array(frames, np.float64) - at
    y = values[frames]
    # The line goes through the edge itself, so that the curve does not jump there.
    slope = float((x * (y - y[0])).sum() / (x * x).sum())
    return float(values[at]), slope


def bridge(values: NDArray[np.float64], first: int, stop: int, flat: bool = False) -> None:
    """Writes frames first..stop of (frames,) as a cubic from edge to edge with the slopes there; at an end it is held.

    The slope is kept from overshooting: no steeper than three times the straight way (Fritsch & Carlson 1980), unless
    the curve turns round within. `flat`: slopes are zero.
    """
    known = np.isfinite(values)
    known[first:stop] = False
    before = _edge(values, known, first - 1, -1) if first > 0 else None
    after = _edge(values, known, stop, 1) if stop < len(values) else None
    if before is None and after is None:
        return
    if before is None or after is None:
        values[first:stop] = (before or after)[0]  # type: ignore[index]
        return
    span = stop - first + 1
    (v0, m0), (v1, m1) = before, after
    way = (v1 - v0) / span
    if flat:
        m0 = m1 = 0.0
    elif m0 * m1 > 0 or abs(way) * span > 0.02:
        m0, m1 = (float(np.clip(m, min(0.0, 3 * way), max(0.0, 3 * way))) for m in (m0, m1))
    s = np.arange(1, span) / span
    r = 1 - s
    values[first:stop] = r * r * (1 + 2 * s) * v0 + s * s * (3 - 2 * s) * v1 + span * s * r * (m0 * r - m1 * s)


def bridge_flags(values: Floats, flags: NDArray[np.bool_], longest: float = np.inf) -> Floats:
    """(frames, channels) with each flagged run of at most `longest` frames bridged."""
    out = values.copy()
    for column in np.flatnonzero(flags.any(axis=0)):
        curve = values[:, column].astype(np.float64)
        for first, stop in runs(flags[:, column]):
            if stop - first <= longest:
                bridge(curve, first, stop)
        out[:, column] = curve
    return out
