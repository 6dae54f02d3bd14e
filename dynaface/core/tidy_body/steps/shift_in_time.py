"""Shift in time: groups of joints earlier or later, by parts of a frame as well."""

from collections.abc import Mapping
from dataclasses import replace
from typing import Any

import numpy as np

from dynaface.core.body.skeleton import Motion
from dynaface.core.parameters import Parameter
from dynaface.core.tidy_body.step import BodyStep, Joints, travels


def apply(motion: Motion, parameters: Mapping[str, Any], joints: Joints) -> Motion:
    """Both ends are held."""
    by = parameters["frames"]
    if by == 0:
        return motion
    shifted, way = motion.at((np.arange(motion.frames) - by) / float(motion.rate))
    local = motion.local.copy()
    local[:, joints] = shifted[:, joints]
    return replace(motion, local=local, root=way if travels(motion, joints) else motion.root)


STEP = BodyStep(
    name="shift in time",
    label="Shift in time",
    help="Moves joints against each other in time: an arm whose sensor was late.",
    parameters=(
        Parameter("frames", "Later by", "number", 0.0, "frames", -240, 240, 0.25, help="Frames of the body take."),
    ),
    apply=apply,
)
