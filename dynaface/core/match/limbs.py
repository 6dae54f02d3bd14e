"""Arms and legs: which joints of a chain are shoulder, elbow and wrist, or hip, knee and ankle, by how long bones of people are."""

from collections.abc import Iterator
from dataclasses import dataclass
from itertools import combinations

import numpy as np

from dynaface.core.body.rotations import Array
from dynaface.core.match.tree import Tree

UPPER, THIGH = 1.12, 1.03  # length of upper arm by forearm, of thigh by shin
SPREAD = 0.22  # of the logarithm of such a ratio
SHOULDER = 0.32  # how far to the side of where arms hang a shoulder lies, by the length of the arm
LONGEST = 16  # joints of a limb that are looked at
BESIDE = 0.12  # of a bone's length by which a twist joint may lie off it


@dataclass(frozen=True)
class Limb:
    """side: "L" or "R"; joints: part -> index; twists: part -> indices along its bone; sure: 0..1."""

    side: str
    joints: dict[str, int]
    twists: dict[str, tuple[int, ...]]
    sure: float


def find_arm(tree: Tree, first: int, on: int, side: str, axes: Array) -> Limb | None:
    """The arm that begins with a joint on another; None where its chain is too short."""
    palm = _palm(tree, first)
    chain = [first, *tree.way(first, palm)][-LONGEST:] if palm is not None else tree.longest(first)[:LONGEST]
    if palm is not None and len(chain) < 3:  # hands that were recorded without arms
        return Limb(side, {"hand": palm, **({"lowerarm": chain[0]} if len(chain) > 1 else {})}, {}, 0.9)
    left = axes[0] if side == "L" else -axes[0]
    out = (tree.at - tree.at[on]) @ left
    scored: list[tuple[float, tuple[int, int, int]]] = []
    for i, j, h in _triples(chain, len(chain) - 1 if palm is not None else 0):
        upper, lower = tree.apart(chain[i], chain[j]), tree.apart(chain[j], chain[h])
        arm = upper + lower
        if min(upper, lower) < 1e-9:
            continue
        cost = (np.log(upper / lower / UPPER) / SPREAD) ** 2
        cost += ((out[chain[i]] / arm - SHOULDER) / 0.14) ** 2
        hand = sum(tree.bones[chain[k]] for k in range(h + 1, len(chain))) / arm
        cost += (max(hand - 0.36, 0) / 0.1) ** 2 + (0 if palm is None and h == len(chain) - 1 and hand == 0 else 0.1)
        cost += 0.4 * max(i - 1, 0)
        scored.append((float(cost), (i, j, h)))
    best = _best(scored)
    if best is None:
        return None
    (i, j, h), sure = best
    joints = {"upperarm": chain[i], "lowerarm": chain[j], "hand": chain[h]}
    if i:
        joints["clavicle"] = chain[0]
    twists = {"upperarm": _twists(tree, chain[i:j], chain[j]), "lowerarm": _twists(tree, chain[j:h], chain[h])}
    return Limb(side, joints, twists, sure)


def find_leg(tree: Tree, first: int, side: str, axes: Array) -> Limb | None:
    """The leg that begins with a joint; None where its chain is too short."""
    chain = tree.longest(first)[:LONGEST]
    up = axes[1]
    height = tree.at @ up
    deep = height[chain[0]] - min(height[chain])
    scored: list[tuple[float, tuple[int, int, int]]] = []
    for i, j, h in _triples(chain, 0):
        upper, lower = tree.apart(chain[i], chain[j]), tree.apart(chain[j], chain[h])
        if min(upper, lower) < 1e-9 or deep <= 0:
            continue
        cost = (np.log(upper / lower / THIGH) / SPREAD) ** 2
        cost += (max(0.88 - float(height[chain[0]] - height[chain[h]]) / deep, 0) / 0.06) ** 2
        if h + 1 < len(chain):
            shin, foot = tree.at[chain[h]] - tree.at[chain[j]], tree.at[chain[h + 1]] - tree.at[chain[h]]
            straight = float(shin @ foot) / max(float(np.linalg.norm(shin) * np.linalg.norm(foot)), 1e-12)
            cost += (max(straight - 0.75, 0) / 0.1) ** 2
            cost += (max(float(np.linalg.norm(foot)) / (upper + lower) - 0.3, 0) / 0.05) ** 2
        elif h > i + 2:
            cost += 2.0
        cost += 0.8 * i
        scored.append((float(cost), (i, j, h)))
    best = _best(scored)
    if best is None:
        return None
    (i, j, h), sure = best
    joints = {"upperleg": chain[i], "lowerleg": chain[j], "foot": chain[h]}
    if h + 1 < len(chain):
        joints["toe"] = chain[h + 1]
    twists = {"upperleg": _twists(tree, chain[i:j], chain[j]), "lowerleg": _twists(tree, chain[j:h], chain[h])}
    return Limb(side, joints, twists, sure)


def _palm(tree: Tree, first: int) -> int | None:
    """The joint of a limb on which three or more chains of fingers hang, the nearest one."""
    for joint in tree.below(first):
        if sum(tree.count[c] >= 1 for c in tree.children[joint]) >= 3:
            return joint
    return None


def _triples(chain: list[int], last: int) -> Iterator[tuple[int, int, int]]:
    """Places in a chain for the three joints of a limb; last: where the third one must be, 0 for anywhere."""
    for i, j, h in combinations(range(len(chain)), 3):
        if not last or h == last:
            yield i, j, h


def _best(scored: list[tuple[float, tuple[int, int, int]]]) -> tuple[tuple[int, int, int], float] | None:
    if not scored:
        return None
    scored.sort()
    margin = scored[1][0] - scored[0][0] if len(scored) > 1 else 4.0
    return scored[0][1], float(np.clip(0.6 + 0.1 * margin, 0.6, 0.98) * np.exp(-0.02 * scored[0][0]))


def _twists(tree: Tree, bone: list[int], end: int) -> tuple[int, ...]:
    """Joints that lie along a bone from its first joint to its end: between, or on the way beside it, in order."""
    start = bone[0]
    along = tree.at[end] - tree.at[start]
    long = float(np.linalg.norm(along))
    beside = [c for b in bone for c in tree.children[b] if not tree.children[c] and c != end and c not in bone]
    found: list[tuple[float, int]] = []
    for joint in [*bone[1:], *beside]:
        at = tree.at[joint] - tree.at[start]
        part = float(at @ along) / long**2
        if -0.02 < part < 0.98 and np.linalg.norm(at - part * along) < BESIDE * long:
            found.append((part, joint))
    return tuple(j for _, j in sorted(found))
