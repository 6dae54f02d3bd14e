"""Hold in limits: joints that bend farther than a body does come back to where it can."""

from collections.abc import Mapping
from dataclasses import replace
from typing import Any

import numpy as np

from dynaface.core.body.rotations import about_vector, multiply
from dynaface.core.body.skeleton import Motion
from dynaface.core.parameters import Parameter
from dynaface.core.tidy_body.limits import beyond_limits
from dynaface.core.tidy_body.step import BodyStep, Joints


def apply(motion: Motion, parameters: Mapping[str, Any], joints: Joints) -> Motion:
    """Each joint turns back by what it is beyond its limit, widened by `give`."""
    over = beyond_limits(motion, parameters["give"])
    own = [j for j in over if joints[j]]
    if not own:
        return motion
    local = motion.local.copy()
    for joint in own:
        back = over[joint]
        far = np.linalg.norm(back, axis=1) > 0
        local[far, joint] = multiply(local[far, joint], about_vector(back[far]))
    return replace(motion, local=local)


STEP = BodyStep(
    name="hold in limits",
    label="Hold in limits",
    help="Knees that bend forward and joints that turn farther than a body can come back to their limit.",
    parameters=(Parameter("give", "Give", "number", 0.0, "deg", 0, 60, 1, help="How much farther each joint may go."),),
    apply=apply,
)
