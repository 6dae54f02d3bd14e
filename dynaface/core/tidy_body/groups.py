"""Groups of joints that are tidied together."""

import numpy as np
from numpy.typing import NDArray

from dynaface.core.body.skeleton import Skeleton
from dynaface.core.match.anatomy import Slot, anatomy_of

GROUPS = ("hips", "spine", "head", "armLeft", "armRight", "handLeft", "handRight", "legLeft", "legRight")
_TRUNK = {"hips": "hips", "spine": "spine", "neck": "head", "head": "head"}
_LIMBS = (("leg", ("upperleg", "lowerleg", "foot", "toe")), ("arm", ("collar", "upperarm", "lowerarm")))
_SIDES = {"L": "Left", "R": "Right"}


def groups_of(skeleton: Skeleton) -> tuple[str, ...]:
    """The group of every joint; one of which nothing is known is of the joint that it hangs on, the first of "hips"."""
    slots = anatomy_of(skeleton).slots
    out: list[str] = []
    for joint, parent in enumerate(skeleton.parents):
        own = _group(slots[joint]) if joint in slots else ""
        out.append(own or (out[parent] if parent >= 0 else "hips"))
    return tuple(out)


def in_groups(skeleton: Skeleton, groups: tuple[str, ...]) -> NDArray[np.bool_]:
    """(joints,) which are of these groups; all where none is named."""
    return np.array([not groups or g in groups for g in groups_of(skeleton)], bool)


def _group(slot: Slot) -> str:
    part = slot.part.removesuffix(" twist")
    if part in _TRUNK:
        return _TRUNK[part]
    side = _SIDES.get(slot.side, "")
    limb = next((limb for limb, parts in _LIMBS if part in parts), "hand")
    return f"{limb}{side}" if side else ""
