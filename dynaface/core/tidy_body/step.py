"""What a tidy step for bodies is, and running some of them one after the other."""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Any

import numpy as np
from numpy.typing import NDArray

from dynaface.core import checks
from dynaface.core.body.rotations import Array, slerp
from dynaface.core.body.skeleton import Motion
from dynaface.core.errors import InputError
from dynaface.core.numeric.ease import eased
from dynaface.core.parameters import Parameter, complete
from dynaface.core.tidy_body.groups import GROUPS, in_groups

RAMP = 0.1  # seconds outside of a place over which a step comes and goes
LONGEST = 100_000  # seconds
Joints = NDArray[np.bool_]


@dataclass(frozen=True)
class BodyStep:
    """One step, described once. apply: (Motion, complete checked parameters, (joints,) which it is asked for) -> Motion; it changes no input.
    The way of the hips belongs to the joints without a parent.
    """

    name: str
    label: str
    help: str
    parameters: Sequence[Parameter]
    apply: Callable[[Motion, Mapping[str, Any], Joints], Motion]


@dataclass(frozen=True)
class PlacedBodyStep:
    """A step with its parameters. groups: of `GROUPS`, all where there are none; first, last: seconds of the body take, None for its ends."""

    step: BodyStep
    parameters: Mapping[str, Any]
    on: bool = True
    groups: tuple[str, ...] = ()
    first: float | None = None
    last: float | None = None

    @property
    def described(self) -> tuple[object, ...]:
        """Plain values, equal for steps that do the same."""
        return self.step.name, dict(self.parameters), self.groups, self.first, self.last


def placed_body_step(
    steps: Mapping[str, BodyStep], name: str, given: Mapping[str, Any], on: bool, groups: Sequence[str],
    first: float | None, last: float | None,
) -> PlacedBodyStep:  # fmt: skip
    """A step by name with checked parameters; raises InputError."""
    step: BodyStep = steps[checks.one_of("body step", name, steps)]
    for group in groups:
        checks.one_of("group of joints", group, GROUPS)
    for word, at in (("first", first), ("last", last)):
        if at is not None:
            checks.within(f"{word} of {name}", at, 0, LONGEST)
    if first is not None and last is not None and last < first:
        raise InputError(f"{name} ends at {last:g} s, before it begins at {first:g} s")
    return PlacedBodyStep(step, complete(step.parameters, given), on, tuple(groups), first, last)


def tidy_body(motion: Motion, steps: Sequence[PlacedBodyStep]) -> Motion:
    """The motion through the steps that are switched on, in their order."""
    for one in steps:
        if one.on and motion.frames:
            motion = _run(motion, one)
    return motion


def _run(motion: Motion, one: PlacedBodyStep) -> Motion:
    joints = in_groups(motion.skeleton, one.groups)
    weights = _weights(motion, one)
    if not joints.any() or not weights.any():
        return motion
    made = one.step.apply(motion, one.parameters, joints)
    if one.first is None and one.last is None:
        return made
    whole, part = weights >= 1, (weights > 0) & (weights < 1)
    local, root = motion.local.copy(), motion.root.copy()
    local[whole], root[whole] = made.local[whole], made.root[whole]
    local[part] = slerp(local[part], made.local[part], weights[part][:, None])
    root[part] += (made.root[part] - root[part]) * weights[part][:, None]
    return replace(motion, local=local, root=root)


def _weights(motion: Motion, one: PlacedBodyStep) -> Array:
    """(frames,) how much of a step's result is taken."""
    at = np.arange(motion.frames) / float(motion.rate)
    near = 0.5 / float(motion.rate)
    outside = np.zeros(motion.frames)
    if one.first is not None:
        outside = np.maximum(outside, one.first - near - at)
    if one.last is not None:
        outside = np.maximum(outside, at - one.last - near)
    return eased(1 - outside / RAMP)


def travels(motion: Motion, joints: Joints) -> bool:
    """Whether the way of the hips is among what a step is asked for."""
    return any(j for j, p in zip(joints, motion.skeleton.parents, strict=True) if p < 0)
