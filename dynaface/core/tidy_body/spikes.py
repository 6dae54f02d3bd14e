"""How far joints, and the hips' way, are off the median of their neighbours in time (Hampel 1974)."""

import numpy as np

from dynaface.core.body.rotations import Array, continuous, normalised
from dynaface.core.body.skeleton import Motion
from dynaface.core.curves.medians import moving_median
from dynaface.core.tidy_body.turns import TO_DEGREES, angles_between

NOTHING = 1e-9  # a limit that is none


def wild_turns(motion: Motion, half: int, limit: float, least: float) -> Array:
    """(frames, joints) how many times beyond the limit a joint is off the median of `half` frames to either side, more than 1 for a spike.
    least: degrees; limit: times the neighbours' spread.
    """
    turns = continuous(motion.local)
    flat = turns.reshape(len(turns), -1).astype(np.float32)
    middle, spread = (a.reshape(turns.shape).astype(np.float64) for a in moving_median(flat, half))
    off = angles_between(turns, normalised(middle))
    about = TO_DEGREES * np.linalg.norm(spread, axis=-1)
    return off / np.maximum(limit * about, max(least, NOTHING))


def wild_way(motion: Motion, half: int, limit: float, least: float) -> Array:
    """(frames,) the same of the hips' way; least: metres."""
    root = motion.root.astype(np.float32)
    middle, spread = moving_median(root, half)
    return np.asarray((np.abs(root - middle) / np.maximum(limit * spread, max(least, NOTHING))).max(axis=1))
