"""Fill gaps: joints that a suit lost, and that therefore stand still while the body moves, go on between the frames beside."""

from collections.abc import Mapping
from dataclasses import replace
from typing import Any

from dynaface.core.body.skeleton import Motion
from dynaface.core.parameters import Parameter
from dynaface.core.tidy_body.frozen import frozen
from dynaface.core.tidy_body.step import BodyStep, Joints
from dynaface.core.tidy_body.turns import bridged_turns


def apply(motion: Motion, parameters: Mapping[str, Any], joints: Joints) -> Motion:
    """Stretches of at least `shortest` and at most `longest` frames are bridged."""
    flags = frozen(motion, int(parameters["shortest"])) & joints
    return replace(motion, local=bridged_turns(motion.local, flags, parameters["longest"])) if flags.any() else motion


STEP = BodyStep(
    name="fill gaps",
    label="Fill gaps",
    help="Joints that stand still to the last digit while others move were lost: they go from where they were to where "
    "they were found again.",
    parameters=(
        Parameter("shortest", "Shortest", "number", 6, "frames", 2, 200, 1, help="A shorter stillness is none."),
        Parameter("longest", "Longest", "number", 240, "frames", 2, 2000, 1, help="A longer one stays as it is."),
    ),
    apply=apply,
)
