"""Remove spikes: frames in which a joint, or the hips' way, is far off the median of its neighbours (Hampel 1974) are bridged."""

from collections.abc import Mapping
from dataclasses import replace
from typing import Any

import numpy as np

from dynaface.core.body.skeleton import Motion
from dynaface.core.curves.patch import bridge_flags
from dynaface.core.parameters import Parameter
from dynaface.core.tidy_body.spikes import wild_turns, wild_way
from dynaface.core.tidy_body.step import BodyStep, Joints, travels
from dynaface.core.tidy_body.turns import bridged_turns


def apply(motion: Motion, parameters: Mapping[str, Any], joints: Joints) -> Motion:
    """Spikes are bridged from the frames beside them, so that a movement goes on through them."""
    half = int(parameters["half"])
    wild = (wild_turns(motion, half, parameters["limit"], parameters["least"]) > 1) & joints
    out = replace(motion, local=bridged_turns(motion.local, wild)) if wild.any() else motion
    if not travels(motion, joints):
        return out
    jumps = wild_way(motion, half, parameters["limit"], parameters["way"] / 100) > 1
    if not jumps.any():
        return out
    root = motion.root.astype(np.float32)
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
