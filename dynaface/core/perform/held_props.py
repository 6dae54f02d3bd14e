"""Performances whose hands hold props."""

from collections.abc import Mapping
from dataclasses import dataclass, replace
from fractions import Fraction

import numpy as np

from dynaface.core.body.rotations import Array
from dynaface.core.body.skeleton import Skeleton
from dynaface.core.cast.character import Character
from dynaface.core.perform.join import RetargetedBody
from dynaface.core.perform.perform import Performance
from dynaface.core.prop.carry import Carried, carry
from dynaface.core.prop.holder import Holder
from dynaface.core.prop.prop import Numbers, PlacedProp, PropShape


@dataclass(frozen=True)
class Standing:
    """Where a role stands. at: metres; turn: degrees to its left."""

    at: Numbers = (0.0, 0.0, 0.0)
    turn: float = 0.0


@dataclass(frozen=True)
class HeldProps:
    """props: what became of each; arms: role -> joint -> (frames, 4) local rotations of arms and fingers that were bent."""

    props: Mapping[str, Carried]
    arms: Mapping[str, Mapping[int, Array]]


def holder_of(made: Performance | RetargetedBody, character: Character, where: Standing) -> Holder | None:
    """A role that can hold props, as it performs or as its body alone moves; None without a skeleton."""
    if character.skeleton is None:
        return None
    motion = made.motion(character.skeleton) if isinstance(made, Performance) else made
    return Holder(character.skeleton, motion.local, motion.root, where.at, where.turn)


def hold_props(props: Mapping[str, tuple[PlacedProp, PropShape]], holders: Mapping[str, Holder], frames: int, rate: Fraction) -> HeldProps:  # fmt: skip
    """All props of a shot, by key, in the hands of its roles."""
    carried = {key: carry(placed, shape, holders, frames, rate) for key, (placed, shape) in sorted(props.items())}
    return HeldProps(carried, {role: holder.arms for role, holder in holders.items()})


def with_arms(made: Performance, skeleton: Skeleton | None, arms: Mapping[int, Array], first: int = 0) -> Performance:
    """A performance with arms as they hold props; arms: of frames of which the performance begins at `first`."""
    if not arms or skeleton is None:
        return made
    moving = set(made.joints) | {skeleton.names[joint] for joint in arms}
    local = made.motion(skeleton).local.astype(np.float32)
    for joint, turn in arms.items():
        local[:, joint] = turn[first : first + len(local)]
    order = [number for number, name in enumerate(skeleton.names) if name in moving]
    return replace(made, joints=tuple(skeleton.names[n] for n in order), local=local[:, order])
