"""What each joint of a skeleton is: hips, spine, neck, head, arms, legs, fingers. Found by the tree and the rest pose; names are heard as far as
they agree with those.
"""

from dataclasses import dataclass, field, replace
from functools import lru_cache
from typing import NamedTuple

import numpy as np

from dynaface.core.body.rotations import Array
from dynaface.core.body.skeleton import Skeleton
from dynaface.core.match.branches import Branches, find_branches
from dynaface.core.match.fingers import find_fingers, hand_alone, side_of_hand
from dynaface.core.match.limbs import Limb, find_arm, find_leg
from dynaface.core.match.names import part_of
from dynaface.core.match.tree import Tree

TRUSTED = 0.6  # share of the names that say what tree and places say, from which on they are heard
BY_NAME = 0.6  # how sure a joint is that only its name speaks of
TIP = 0.4  # of the trunk's length above which the last joint of the head's chain is its tip
CHAINS = ("spine", "neck")  # parts of which a body has several, one above the other


class Slot(NamedTuple):
    """What a joint is: part of the body, side "L", "R" or "", number along a chain from 1 on (0 where there is one; of a finger the joint
    from the knuckle on, 0 in the palm).
    """

    part: str
    side: str = ""
    number: int = 0


@dataclass(frozen=True)
class Anatomy:
    """slots: what is known of joints by index; sure: 0..1 of each; axes: (3, 3) rows left, up, ahead of the body at rest, None where
    it has no pairs of limbs; facing: 0..1, how sure left and ahead are; trust: share of names that agree with what was found, 0 where they say nothing.
    """

    slots: dict[int, Slot]
    sure: dict[int, float]
    axes: Array | None
    facing: float
    trust: float

    def joint(self, part: str, side: str = "", number: int = 0) -> int:
        """The joint that is in a slot, or -1."""
        return next((j for j, s in self.slots.items() if s == (part, side, number)), -1)

    def chain(self, part: str, side: str = "") -> list[int]:
        """Joints of a part from its first on."""
        return [j for j, s in sorted(self.slots.items(), key=lambda e: e[1].number) if s[:2] == (part, side)]

    @property
    def chained(self) -> list[int]:
        """Joints of the parts of which a body has several."""
        return [joint for part in CHAINS for joint in self.chain(part)]


@dataclass
class _Found:
    slots: dict[int, Slot] = field(default_factory=dict)
    sure: dict[int, float] = field(default_factory=dict)

    def put(self, joint: int, slot: Slot, sure: float) -> None:
        if joint not in self.slots and slot not in self.slots.values():
            self.slots[joint], self.sure[joint] = slot, sure


def anatomy_of(skeleton: Skeleton) -> Anatomy:
    """What the joints of a skeleton are."""
    return _anatomy(
        skeleton.names,
        skeleton.parents,
        np.ascontiguousarray(skeleton.offsets).tobytes(),
        np.ascontiguousarray(skeleton.rest).tobytes(),
    )


@lru_cache(maxsize=64)
def _anatomy(names: tuple[str, ...], parents: tuple[int, ...], offsets: bytes, rest: bytes) -> Anatomy:
    skeleton = Skeleton(names, parents, np.frombuffer(offsets).reshape(-1, 3), np.frombuffer(rest).reshape(-1, 4))
    tree = Tree.of(skeleton)
    said = [_said(name) for name in names]
    found = _Found()
    sides = [s.side if s else "" for s in said]
    alone = hand_alone(tree)
    branches = find_branches(tree, sides) if alone is None else None
    if alone is not None:
        _put_fingers(tree, alone, side_of_hand(tree, alone, sides), 0.8, found)
    if branches is not None:
        _trunk(tree, branches, said, found)
        for limb in _limbs(tree, branches):
            _put_limb(tree, limb, branches.facing, found)
    trust, known = _agreement(found, said)
    if known:
        sure = {j: _heard(found.sure[j], s, said[j], trust) for j, s in found.slots.items()}
        found = replace(found, sure=sure)
    if (branches is None and alone is None) or trust >= TRUSTED:
        _by_names(skeleton, said, found)
    axes, facing = (branches.axes, branches.facing) if branches else (None, 0.0)
    return Anatomy(found.slots, found.sure, axes, facing, trust)


def _said(name: str) -> Slot | None:
    part = part_of(name)
    return Slot(part[0], part[1], part[2][0] if part[2] else 0) if part else None


def _limbs(tree: Tree, branches: Branches) -> list[Limb]:
    found: list[Limb | None] = []
    for side in ("L", "R"):
        if branches.arms:
            first = branches.arms.one if side == "L" else branches.arms.other
            found.append(find_arm(tree, first, branches.arms.on, side, branches.axes))
        if branches.legs:
            first = branches.legs.one if side == "L" else branches.legs.other
            found.append(find_leg(tree, first, side, branches.axes))
    return [limb for limb in found if limb is not None]


def _put_limb(tree: Tree, limb: Limb, facing: float, found: _Found) -> None:
    sided = 0.5 + 0.5 * facing
    for part, joint in limb.joints.items():
        found.put(joint, Slot(part, limb.side), limb.sure * sided)
    for part, joints in limb.twists.items():
        for number, joint in enumerate(joints, 1):
            found.put(joint, Slot(f"{part} twist", limb.side, number), limb.sure * sided)
    if "hand" in limb.joints:
        _put_fingers(tree, limb.joints["hand"], limb.side, sided, found)


def _put_fingers(tree: Tree, hand: int, side: str, sided: float, found: _Found) -> None:
    found.put(hand, Slot("hand", side), sided)
    for finger in find_fingers(tree, hand):
        for number, joint in finger.joints.items():
            found.put(joint, Slot(f"finger{finger.digit}", side, number), finger.sure * sided)


def _trunk(tree: Tree, branches: Branches, said: list[Slot | None], found: _Found) -> None:
    """Hips, spine, neck and head."""
    legs, arms = branches.legs, branches.arms
    if arms is None:
        assert legs is not None
        found.put(legs.on, Slot("hips"), 0.8)
        return
    above = tree.above(arms.on)
    if legs is None:
        hips = above[-1] if len(above) > 2 or (said[above[-1]] or Slot("")).part == "hips" else -1
    else:
        over = tree.above(legs.on)
        hips = next((j for j in above if j in over), -1)
    if hips >= 0:
        found.put(hips, Slot("hips"), 0.95 if legs else 0.6)
        spine = tree.way(hips, arms.on)
    else:
        spine = above[::-1]
    for number, joint in enumerate(spine, 1):
        found.put(joint, Slot("spine", "", number), 0.9)
    _head(tree, branches, hips, said, found)


def _head(tree: Tree, branches: Branches, hips: int, said: list[Slot | None], found: _Found) -> None:
    arms = branches.arms
    assert arms is not None
    rest = [c for c in tree.children[arms.on] if c not in (arms.one, arms.other)]
    up = branches.axes[1]
    top = max(rest, key=lambda c: max(float(tree.at[j] @ up) for j in tree.below(c)), default=-1)
    if top < 0:
        return
    # The neck goes on where one joint carries one; many at once are a face, and their carrier the head.
    chain = [top]
    while len(tree.children[chain[-1]]) == 1:
        chain.append(tree.children[chain[-1]][0])
    head, sure = chain[-1], 0.85
    named = next((j for j in chain if (said[j] or Slot("")).part == "head"), -1)
    if tree.children[head]:
        sure = 0.9
    elif len(chain) > 1:
        trunk = tree.apart(hips, arms.on) if hips >= 0 else tree.apart(chain[0], chain[-1])
        longest = max((tree.bones[j] for j in chain[1:-1]), default=0.0)
        share = float(tree.bones[head]) / max(trunk, 1e-9)
        is_tip = share > TIP and tree.bones[head] > 1.2 * longest
        sure = float(np.clip(0.6 + abs(share - TIP) * 2, 0.6, 0.95))
        head = chain[-2] if is_tip else head
    if named >= 0 and named != head and chain.index(head) - chain.index(named) in (-1, 1) and _named_well(said, found):
        head, sure = named, 0.8
    neck = chain[: chain.index(head)]
    found.put(head, Slot("head"), sure)
    for number, joint in enumerate(neck, 1):
        found.put(joint, Slot("neck", "", number), sure)


def _named_well(said: list[Slot | None], found: _Found) -> bool:
    trust, known = _agreement(found, said)
    return known > 1 and trust >= TRUSTED


def _agreement(found: _Found, said: list[Slot | None]) -> tuple[float, int]:
    """(share of names that speak of a part and say what was found, how many speak)."""
    pairs = [(s, told) for j, s in found.slots.items() if (told := said[j]) is not None]
    if not pairs:
        return 0.0, 0
    return sum(s[:2] == told[:2] for s, told in pairs) / len(pairs), len(pairs)


def _heard(sure: float, slot: Slot, told: Slot | None, trust: float) -> float:
    """How sure a joint is once its name was heard, which counts as much as names do in this skeleton."""
    if told is None:
        return sure
    if slot[:2] == told[:2]:
        return 1 - (1 - sure) * (1 - 0.8 * trust)
    return sure * (1 - 0.4 * trust) if trust >= TRUSTED else sure


def _by_names(skeleton: Skeleton, said: list[Slot | None], found: _Found) -> None:
    """What only names speak of: jaw and eyes, and all of a skeleton that has no pairs of limbs."""
    numbered: dict[tuple[str, str], int] = {}
    for joint, told in enumerate(said):
        if told is None:
            continue
        chained = told.part in CHAINS or told.part.startswith("finger")
        number = numbered[told[:2]] = numbered.get(told[:2], 0) + 1 if chained else 0
        if not any(s[:2] == told[:2] for s in found.slots.values()) or number > 1:
            found.put(joint, Slot(told.part, told.side, number), BY_NAME)
