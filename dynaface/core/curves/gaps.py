"""Gaps: where they are, and a straight bridge over them for what must move without a break."""

import numpy as np

from dynaface.core.curves.channels import Floats


def gap_frames(values: Floats) -> int:
    """How many frames of (frames, channels) have a gap in any channel."""
    return int(np.isnan(values).any(axis=1).sum())


def bridged(values: Floats) -> Floats:
    """(frames, channels) with gaps filled straight from edge to edge and held at the ends; an empty channel is 0.

    A character cannot have a gap: it would fall back to rest for some frames. The curves themselves keep theirs.
    """
    missing = np.isnan(values)
    if not missing.any():
        return values
    out = values.copy()
    frames = np.arange(len(values))
    for column in np.flatnonzero(missing.any(axis=0)):
        known = ~missing[:, column]
        out[:, column] = np.interp(frames, frames[known], values[known, column]) if known.any() else 0.0
    return out
