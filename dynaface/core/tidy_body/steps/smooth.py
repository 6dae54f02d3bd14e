"""Smooth: a low pass forward and backward, so that nothing comes late, or a Savitzky-Golay filter (1964), on rotations and the hips' way."""

from collections.abc import Mapping
from dataclasses import replace
from typing import Any

import numpy as np

from dynaface.core.body.rotations import Array
from dynaface.core.body.skeleton import Motion
from dynaface.core.curves.lowpass import low_pass
from dynaface.core.numeric.filters import savitzky_golay
from dynaface.core.parameters import Parameter
from dynaface.core.tidy_body.step import BodyStep, Joints, travels
from dynaface.core.tidy_body.turns import filtered

HIGH, LOW = 20.0, 1.5  # Hz at which the low pass begins for amounts near 0 and for 1
WINDOW, ORDER = 0.5, 3  # seconds of the other filter for 1
METHODS = ("low-pass", "savitzky-golay")


def apply(motion: Motion, parameters: Mapping[str, Any], joints: Joints) -> Motion:
    """Both ends stay where they are; an amount of 0 changes nothing."""
    amount, rate = parameters["amount"], float(motion.rate)
    if amount <= 0 or motion.frames < 8:
        return motion

    def by(values: Array) -> Array:
        if parameters["method"] == "low-pass":
            cutoff = min(HIGH * (LOW / HIGH) ** amount, 0.45 * rate)
            return low_pass(values.astype(np.float32), cutoff, rate).astype(np.float64)
        window = min(2 * max(round(WINDOW * amount * rate / 2), 2) + 1, (motion.frames - 1) // 2 * 2 + 1)
        return savitzky_golay(values, window, ORDER)

    local = motion.local.copy()
    local[:, joints] = filtered(motion.local[:, joints], by)
    return replace(motion, local=local, root=by(motion.root) if travels(motion, joints) else motion.root)


STEP = BodyStep(
    name="smooth",
    label="Smooth",
    help="Takes the trembling out of joints and of the hips' way. Feet that are to stand are held afterwards.",
    parameters=(
        Parameter("amount", "Amount", "number", 0.4, "", 0, 1, 0.01),
        Parameter("method", "Method", "choice", "low-pass", options=METHODS),
    ),
    apply=apply,
)
