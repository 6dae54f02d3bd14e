"""Where a body branches: the pair of its legs, the pair of its arms, and which way is left, up and ahead. Found by lengths and places alone."""

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import combinations

import numpy as np

from dynaface.core.body.rotations import Array
from dynaface.core.match.tree import Tree

ALIKE = 0.75  # of the longer one's length that the shorter of two limbs has at least
SMALLER = 0.3  # of the first pair's length that the second has at least
AWAY = 0.8  # cosine from which on two directions are one
CLEAR = 0.04  # of a limb's length that its end lies ahead for it to tell the way


@dataclass(frozen=True)
class Pair:
    """Two limbs that hang on one joint: where, and their first joints; `one` is on the left once sides are known."""

    on: int
    one: int
    other: int


@dataclass(frozen=True)
class Branches:
    """legs, arms: None where there are none; axes: (3, 3) rows of the directions left, up, ahead; facing: 0..1, how sure left and ahead are."""

    legs: Pair | None
    arms: Pair | None
    axes: Array
    facing: float


def find_branches(tree: Tree, sides: Sequence[str]) -> Branches | None:
    """Branches of a body, or None where nothing comes in pairs. sides: of each joint by its name, "L", "R" or "": one witness among others."""
    pairs = _pairs(tree)
    if not pairs:
        return None
    legs, arms = _told_apart(tree, *pairs)
    across = sum(
        (_same_way(tree.middle(p.one) - tree.middle(p.other), tree.middle(pairs[0].one) - tree.middle(pairs[0].other)))
        for p in pairs
    )
    up = _up(tree, legs, arms)
    left = np.asarray(across) - up * float(across @ up)
    left = left / max(float(np.linalg.norm(left)), 1e-12)
    ahead = np.cross(left, up)
    facing = _facing(tree, legs, arms, left, ahead, up, sides)
    if facing < 0:
        left, ahead = -left, -ahead
    axes = np.stack([left, up, ahead])
    return Branches(_sided(tree, legs, left), _sided(tree, arms, left), axes, float(np.tanh(abs(facing))))


def _pairs(tree: Tree) -> tuple[Pair, ...]:
    """The two largest pairs of limbs, neither of which is part of the other."""
    found: list[tuple[float, Pair]] = []
    for joint, children in enumerate(tree.children):
        for one, other in combinations(children, 2):
            small, large = sorted((float(tree.total[one]), float(tree.total[other])))
            short, long = sorted(float(tree.reach[c] + tree.bones[c]) for c in (one, other))
            if small > 1e-9 and small > ALIKE * large and short > ALIKE * long and tree.count[one] > 1:
                found.append((small, Pair(joint, one, other)))
    found.sort(key=lambda f: -f[0])
    if not found:
        return ()
    size, first = found[0]
    inside = {*tree.below(first.one), *tree.below(first.other)}
    for smaller, pair in found[1:]:
        within = {*tree.below(pair.one), *tree.below(pair.other)}
        if smaller > SMALLER * size and pair.on not in inside and first.on not in within and not inside & within:
            return first, pair
    return (first,)


def _told_apart(tree: Tree, first: Pair, second: Pair | None = None) -> tuple[Pair | None, Pair | None]:
    """(legs, arms): legs go away from the trunk. One pair alone is legs where it goes away from all else without a bone to the side."""
    if second is None:
        limbs = {*tree.below(first.one), *tree.below(first.other)}
        rest = [j for j in range(len(tree.parents)) if j not in limbs]
        others = tree.at[rest].mean(axis=0) - tree.at[first.on]
        one, other = (tree.at[tree.longest(limb)[-1]] - tree.at[limb] for limb in (first.one, first.other))
        beside = _cosine(one, other)
        away = _cosine(-others, one + other) if len(rest) > 1 else 1.0
        fans = any(len(tree.children[j]) > 2 for j in tree.below(first.one))
        return (first, None) if away > AWAY and beside > AWAY and not fans else (None, first)
    trunk = tree.at[first.on] - tree.at[second.on]
    trunk = trunk / max(float(np.linalg.norm(trunk)), 1e-12)

    def goes(pair: Pair, way: Array) -> float:
        ends = [tree.at[tree.longest(limb)[-1]] for limb in (pair.one, pair.other)]
        return float((np.mean(ends, axis=0) - tree.at[pair.on]) @ way)

    return (first, second) if goes(first, trunk) > goes(second, -trunk) else (second, first)


def _up(tree: Tree, legs: Pair | None, arms: Pair | None) -> Array:
    if legs and arms:
        up = tree.at[arms.on] - (tree.at[legs.one] + tree.at[legs.other]) / 2
    else:
        pair = legs or arms
        assert pair is not None
        rest = [c for c in tree.children[pair.on] if c not in (pair.one, pair.other)]
        top = max(rest, key=lambda c: tree.total[c], default=None)
        base = (tree.at[pair.one] + tree.at[pair.other]) / 2
        ends = (tree.at[tree.longest(pair.one)[-1]] + tree.at[tree.longest(pair.other)[-1]]) / 2
        above = tree.parents[pair.on]
        if top is not None:
            up = tree.middle(top) - base
        else:
            up = base - ends if legs or above < 0 else tree.at[pair.on] - tree.at[above]
    return np.asarray(up / max(float(np.linalg.norm(up)), 1e-12))


def _cosine(one: Array, other: Array) -> float:
    return float(one @ other) / max(float(np.linalg.norm(one) * np.linalg.norm(other)), 1e-12)


def _same_way(vector: Array, like: Array) -> Array:
    return vector if float(vector @ like) >= 0 else -vector


def _facing(
    tree: Tree, legs: Pair | None, arms: Pair | None, left: Array, ahead: Array, up: Array, sides: Sequence[str]
) -> float:
    """Witnesses for left and ahead as they are thought to be, above 0, or for the opposite: toes, names, the lie of the thumbs' side, the
    head, and what most files do.
    """
    said = 0.0
    if legs:
        for limb in (legs.one, legs.other):
            chain = tree.longest(limb)
            size = sum(tree.bones[j] for j in chain[1:])
            if len(chain) > 3 and size > 0:
                lowest = min(chain[2:-1], key=lambda j: abs(float((tree.at[j] - tree.at[limb]) @ up) + 0.88 * size))
                forward = float((tree.at[chain[-1]] - tree.at[lowest]) @ ahead) / size
                said += 1.5 * np.sign(forward) if abs(forward) > CLEAR else 0.0
            if len(chain) > 2:  # knees are a little ahead of the line from hip to ankle
                ankle = chain[2] if len(chain) == 3 else chain[-2]
                line = tree.at[ankle] - tree.at[limb]
                knee = tree.at[chain[1]] - tree.at[limb]
                bent = knee - line * float(knee @ line) / max(float(line @ line), 1e-12)
                said += 0.2 * float(np.clip(bent @ ahead / (0.005 * max(size, 1e-9)), -1, 1))
    for pair in (p for p in (legs, arms) if p):
        middle = (tree.at[pair.one] + tree.at[pair.other]) / 2
        named = [
            np.sign(float((tree.at[j] - middle) @ left)) * (1 if sides[j] == "L" else -1)
            for limb in (pair.one, pair.other)
            for j in tree.below(limb)
            if sides[j]
        ]
        if len(named) > 3:
            said += 1.5 * float(np.mean(named)) ** 3
    if arms:
        top = max((c for c in tree.children[arms.on] if c not in (arms.one, arms.other)), key=lambda c: tree.total[c], default=None)  # fmt: skip
        if top is not None:
            chain = tree.longest(top)
            long = max(tree.apart(chain[0], chain[-1]), 1e-9)
            said += 0.5 * float(np.clip(5 * (tree.at[chain[-1]] - tree.at[chain[0]]) @ ahead / long, -1, 1))
    # Most files look along +z with +y up, or along -y with +z up: left is +x in both.
    return said + 0.25 * float(left[0])


def _sided(tree: Tree, pair: Pair | None, left: Array) -> Pair | None:
    if pair is None or float((tree.middle(pair.one) - tree.middle(pair.other)) @ left) >= 0:
        return pair
    return Pair(pair.on, pair.other, pair.one)
