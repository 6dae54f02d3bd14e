"""Comparing two versions of the same channels."""

from dataclasses import dataclass

import numpy as np

from dynaface.core import checks
from dynaface.core.curves.channels import Floats


@dataclass(frozen=True)
class Difference:
    """rms and peak in channel units over frames known in both; jitter: RMS third derivative of each, units/s^3."""

    rms: float
    peak: float
    jitter_before: float
    jitter_after: float


def jitter(values: Floats, rate: float) -> float:
    """RMS of the third difference of (frames,) values in units/s^3; 0 with fewer than four frames."""
    third = np.diff(values.astype(np.float64), n=3)
    third = third[np.isfinite(third)]
    return float(np.sqrt(np.mean(third**2)) * rate**3) if third.size else 0.0


def compare(before: Floats, after: Floats, rate: float) -> Difference:
    """Compares two (frames,) curves of one rate."""
    checks.shaped("after", after, *before.shape)
    delta = (after - before)[np.isfinite(after) & np.isfinite(before)]
    if not delta.size:
        return Difference(0.0, 0.0, jitter(before, rate), jitter(after, rate))
    rms = float(np.sqrt(np.mean(delta.astype(np.float64) ** 2)))
    return Difference(rms, float(np.abs(delta).max()), jitter(before, rate), jitter(after, rate))
