"""Remove spikes: frames in which a joint, or the hips' way, is far off the median of its neighbours (Hampel 1974) are bridged."""

from collections.abc import Mapping
from dataclasses import replace
from typing import Any

import numpy as np

from dynaface.core.body.rotations import Array, continuous, normalised
from dynaface.core.body.skeleton import Motion
from dynaface.core.curves.medians import moving_median
from dynaface.core.curves.patch import bridge_flags
from dynaface.core.parameters import Parameter
from dynaface.core.tidy_body.step import BodyStep, Joints, travels
from dynaface.core.tidy_body.turns import angles_between, bridged_turns

TO_DEGREES = 2 * 57.29578  # of a quaternion's parts, for small turns


def wild_turns(motion: Motion, half: int, limit: float, least: float) -> Array:
    """(frames, joints) how many times beyond the limit a joint is off the median of `half` frames to either side, 1 and more for a spike.
    least: degrees; limit: times the neighbours' spread.
    """
    turns = continuous(motion.local)
    flat = turns.reshape(len(turns), -1).astype(np.float32)
    middle, spread = (a.reshape(turns.shape).astype(np.float64) for a in moving_median(flat, half))
    off = angles_between(turns, normalised(middle))
    about = TO_DEGREES * np.linalg.norm(spread, axis=-1)
    return off / np.maximum(limit * about, least)


def apply(motion: Motion, parameters: Mapping[str, Any], joints: Joints) -> Motion:
    """Spikes are bridged from the frames beside them, so that a movement goes on through them."""
    half = int(parameters["half"])
    wild = (wild_turns(motion, half, parameters["limit"], parameters["least"]) > 1) & joints
    out = replace(motion, local=bridged_turns(motion.local, wild)) if wild.any() else motion
    if not travels(motion, joints):
        return out
    root = motion.root.astype(np.float32)
    middle, spread = moving_median(root, half)
    jumps = (np.abs(root - middle) > np.maximum(parameters["limit"] * spread, parameters["way"] / 100)).any(axis=1)
    if not jumps.any():
        return out
    return replace(out, root=bridge_flags(root, np.repeat(jumps[:, None], 3, axis=1)).astype(np.float64))


STEP = BodyStep(
    name="remove spikes",
    label="Remove spikes",
    help="Takes out single wild frames of joints and of the hips' way.",
    parameters=(
        Parameter("half", "Neighbours", "number", 4, "frames", 1, 12, 1,
                  help="Frames to either side; a spike may be at most this long."),
        Parameter("limit", "Limit", "number", 5.0, "× spread", 1, 20, 0.5),
        Parameter("least", "At least", "number", 4.0, "deg", 0, 45, 0.5, help="A smaller step of a joint is no spike."),
        Parameter("way", "Way at least", "number", 3.0, "cm", 0, 50, 0.5, help="A smaller step of the hips is no spike."),
    ),
    apply=apply,
)  # fmt: skip
