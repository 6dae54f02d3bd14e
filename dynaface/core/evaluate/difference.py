"""What changed between two tables of frames, as runs that can be put into the older one."""

from typing import Any

import numpy as np
from numpy.typing import NDArray

from dynaface.core.curves.channels import Floats

JOINED = 8  # equal frames between two changed ones that are sent along rather than begin a new run
Runs = NDArray[np.int32]
"""(runs, 3): column, first frame, number of frames."""


def changed_runs(old: Floats, new: Floats) -> tuple[Runs, Floats]:
    """(runs, values) that make the new table of the old one; both (frames, columns, size) of one shape, gaps NaN.

    values: (frames of all runs, size), one run after the other. Values are compared bit for bit, but every NaN is one gap.
    """
    apart = ((old != new) & ~(np.isnan(old) & np.isnan(new))).any(axis=2)
    runs: list[tuple[int, int, int]] = []
    for column in np.flatnonzero(apart.any(axis=0)):
        at = np.flatnonzero(apart[:, column])
        breaks = np.flatnonzero(np.diff(at) > JOINED)
        for first, last in zip(at[np.r_[0, breaks + 1]], at[np.r_[breaks, len(at) - 1]], strict=True):
            runs.append((int(column), int(first), int(last - first + 1)))
    parts = [new[first : first + count, column] for column, first, count in runs]
    values = np.concatenate(parts) if parts else np.zeros((0, new.shape[2]), np.float32)
    return np.array(runs, np.int32).reshape(-1, 3), values.astype(np.float32)


def patched(old: NDArray[Any], runs: Runs, values: Floats) -> NDArray[Any]:
    """The old table (frames, columns, size) with the runs put in."""
    out, at = old.copy(), 0
    for column, first, count in runs:
        out[first : first + count, column] = values[at : at + count]
        at += count
    return out
