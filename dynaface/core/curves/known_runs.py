"""Filters over what is known: a gap is never reached across."""

from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray

from dynaface.core.curves.channels import Floats


def runs(flags: NDArray[np.bool_]) -> list[tuple[int, int]]:
    """(first, stop) of each run of true in (frames,)."""
    edges = np.flatnonzero(np.diff(np.concatenate([[False], flags, [False]]).astype(np.int8)))
    return [(int(a), int(b)) for a, b in zip(edges[::2], edges[1::2], strict=True)]


def over_runs(values: Floats, work: Callable[[Floats, NDArray[np.intp]], Floats]) -> Floats:
    """`work(part, columns)` on all columns without a gap at once, and on each run between gaps of the others.

    values (frames, channels); part (frames of the run, columns) and the same shape back.
    """
    known = ~np.isnan(values)
    whole = known.all(axis=0)
    if whole.all():
        return work(values, np.arange(values.shape[1]))
    out = values.copy()
    if whole.any():
        out[:, whole] = work(values[:, whole], np.flatnonzero(whole))
    for column in np.flatnonzero(~whole):
        for first, stop in runs(known[:, column]):
            out[first:stop, column] = work(values[first:stop, column : column + 1], np.array([column]))[:, 0]
    return out


def padded(values: Floats, by: int) -> Floats:
    """(frames + 2 by, channels): each end goes on as its own mirror image about the end's value."""
    if by == 0 or not len(values):
        return values
    frames = len(values)
    back = np.minimum(np.arange(by, 0, -1), frames - 1)
    start = 2 * values[:1] - values[back]
    end = 2 * values[-1:] - values[frames - 1 - back[::-1]]
    return np.concatenate([start, values, end])
