"""Steady the way: what the hips drift while feet stand is taken off their way, and so is a ground that rises or sinks."""

from collections.abc import Mapping
from dataclasses import replace
from typing import Any

from dynaface.core.body.skeleton import Motion
from dynaface.core.contact.drift import drift_of
from dynaface.core.parameters import Parameter
from dynaface.core.tidy_body.step import BodyStep, Joints, travels


def apply(motion: Motion, parameters: Mapping[str, Any], joints: Joints) -> Motion:
    """Changes nothing where hips are not asked for, or no foot is found to stand."""
    drift = drift_of(motion) if travels(motion, joints) else None
    if drift is None:
        return motion
    return replace(motion, root=motion.root - drift * [parameters["level"], parameters["height"], parameters["level"]])


STEP = BodyStep(
    name="steady the way",
    label="Steady the way",
    help="A foot that stands does not go: what it seems to go is drift, and is taken off the hips' way.",
    parameters=(
        Parameter(
            "level", "On the ground", "number", 1.0, "", 0, 1, 0.05, help="How much of what feet slide is taken off."
        ),
        Parameter("height", "In height", "number", 1.0, "", 0, 1, 0.05, help="How much of what the ground rises is."),
    ),
    apply=apply,
)
