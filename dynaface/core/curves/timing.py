"""What the time stamps of a recording say: dropped, doubled and uneven frames."""

from dataclasses import dataclass
from fractions import Fraction

import numpy as np

from dynaface.core.curves.channels import Times

DOUBLED, DROPPED, UNEVEN = 0.25, 1.5, 0.1  # in frames: closer than, farther than, off by more than


@dataclass(frozen=True)
class TimingReport:
    """Counts over a recording; `faults` lists (row from 1, kind, step in frames), at most 200 of them."""

    rows: int
    span: float
    nominal: Fraction
    measured: float
    dropped: int
    doubled: int
    uneven: int
    longest_gap: float
    faults: tuple[tuple[int, str, float], ...]


def examine(times: Times, rate: Fraction) -> TimingReport:
    """Examines time stamps (rows,) in seconds, not decreasing, against a nominal rate."""
    steps = np.diff(times) * float(rate)
    doubled = steps < DOUBLED
    dropped = steps > DROPPED
    uneven = ~doubled & ~dropped & (np.abs(steps - 1) > UNEVEN)
    span = float(times[-1] - times[0]) if len(times) else 0.0
    distinct = len(times) - int(doubled.sum())
    lost = int(np.maximum(np.round(steps[dropped]) - 1, 1).sum())
    kinds = np.select([doubled, dropped, uneven], ["doubled", "dropped", "uneven"], "")
    faults = tuple((int(i) + 2, str(kinds[i]), round(float(steps[i]), 3)) for i in np.flatnonzero(kinds != "")[:200])
    return TimingReport(
        rows=len(times),
        span=span,
        nominal=rate,
        measured=(distinct + lost - 1) / span if span > 0 else 0.0,
        dropped=lost,
        doubled=int(doubled.sum()),
        uneven=int(uneven.sum()),
        longest_gap=float(steps.max() / float(rate)) if len(steps) else 0.0,
        faults=faults,
    )
