"""Fingers of a hand: which chain is the thumb, and which come beside it."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from dynaface.core.body.rotations import Array
from dynaface.core.match.tree import Tree

NEAR = 0.5  # of the way to a finger's second joint within which its first one is a bone of the palm


@dataclass(frozen=True)
class Finger:
    """digit: 1 the thumb .. 5; joints: number -> index, 0 a bone of the palm, 1 the knuckle; sure: 0..1."""

    digit: int
    joints: dict[int, int]
    sure: float


MOST = 5  # joints of a finger


def hand_alone(tree: Tree) -> int | None:
    """The joint of the hand in a skeleton that is one hand and nothing else, None in others."""
    joint = 0
    while len(tree.children[joint]) == 1:
        joint = tree.children[joint][0]
    fingers = tree.children[joint]
    plain = all(len(tree.children[j]) <= 1 for f in fingers for j in tree.below(f))
    long = sum(tree.count[f] >= 1 for f in fingers)
    return joint if plain and 3 <= long <= MOST and max(tree.count[f] for f in fingers) < MOST else None


def side_of_hand(tree: Tree, hand: int, sides: Sequence[str]) -> str:
    """ "L" or "R" of a lone hand: by its names, else by where the thumb is in a hand whose palm looks down."""
    left, right = (sum(sides[j] == side for j in tree.below(hand)) for side in ("L", "R"))
    if left != right:
        return "L" if left > right else "R"
    fingers = find_fingers(tree, hand)
    places = [tree.at[list(f.joints.values())].mean(axis=0) - tree.at[hand] for f in fingers]
    if len(places) < 2:
        return "L"
    return "L" if float(np.cross(np.mean(places[1:], axis=0), places[0])[1]) < 0 else "R"


def find_fingers(tree: Tree, hand: int) -> tuple[Finger, ...]:
    """Fingers of a hand, the thumb first."""
    chains = _chains(tree, hand)
    if len(chains) < 2:
        return ()
    wrist = tree.at[hand]
    places = np.concatenate([tree.at[c] for c in chains]) - wrist
    along = places.mean(axis=0)
    size = float(np.linalg.norm(along))
    if size < 1e-9:
        return ()
    along = along / size
    thumb, sure = _thumb(tree, chains, wrist, along, size)
    numbered = [_numbered(tree, c, wrist) for c in chains]
    knuckles = [tree.at[n[1]] - wrist for n in numbered]
    others = [i for i in range(len(chains)) if i != thumb]
    across = _across([knuckles[i] for i in others], along)
    toward = 1.0 if float((tree.at[chains[thumb]].mean(axis=0) - wrist) @ across) >= float(np.mean([knuckles[i] @ across for i in others])) else -1.0  # fmt: skip
    others.sort(key=lambda i: -toward * float(knuckles[i] @ across))
    full = 1.0 if len(chains) == 5 else 0.75
    out = [Finger(1, {n + 1: j for n, j in enumerate(chains[thumb])}, sure * full)]
    for digit, i in enumerate(others[:4], 2):
        out.append(Finger(digit, numbered[i], sure * full))
    return tuple(out)


def _chains(tree: Tree, hand: int) -> list[list[int]]:
    """Chains below a hand, each from where it parts from the others; single joints are none where others are longer."""
    found: list[list[int]] = []
    for child in tree.children[hand]:
        chain, joint = [child], child
        while tree.children[joint]:
            below = tree.children[joint]
            if len(below) > 1 and all(tree.count[c] >= 1 for c in below):
                found.extend([c, *tree.way(c, tree.longest(c)[-1])] for c in below)
                chain = []
                break
            joint = max(below, key=lambda c: tree.count[c])
            chain.append(joint)
        if chain:
            found.append(chain)
    long = [c for c in found if len(c) > 1]
    return long if long else found


def _thumb(tree: Tree, chains: list[list[int]], wrist: Array, along: Array, size: float) -> tuple[int, float]:
    """(which chain is the thumb, how sure): it begins and ends nearer the wrist, and points away from the others."""
    ends = np.array([(tree.at[c[-1]] - wrist) @ along for c in chains]) / size
    # Bones of the palm begin near the wrist for all; what counts is where the last two joints lie.
    starts = np.array([(tree.at[c[-min(3, len(c))]] - wrist) @ along for c in chains]) / size
    ways = np.array([tree.at[c[-1]] - tree.at[c[0]] for c in chains])
    ways /= np.maximum(np.linalg.norm(ways, axis=1, keepdims=True), 1e-12)
    middle = np.median(ways, axis=0)
    middle /= max(float(np.linalg.norm(middle)), 1e-12)
    apart = np.arccos(np.clip(ways @ middle, -1, 1))
    centre = [tree.at[c].mean(axis=0) - wrist for c in chains]
    across = _across(centre, along)
    side = np.array([float(c @ across) for c in centre])
    outer = np.isin(np.arange(len(chains)), [int(side.argmin()), int(side.argmax())])
    score = (starts.max() - starts) + 0.7 * (ends.max() - ends) + 0.8 * apart + np.where(outer, 0.4, 0.0)
    order = np.argsort(-score)
    return int(order[0]), float(np.clip(0.7 + 0.5 * (score[order[0]] - score[order[1]]), 0.5, 0.98))


def _across(places: list[Array], along: Array) -> Array:
    """The direction in which places spread most, square to one."""
    flat = np.array([p - along * float(p @ along) for p in places])
    return np.asarray(np.linalg.svd(flat - flat.mean(axis=0))[2][0])


def _numbered(tree: Tree, chain: list[int], wrist: Array) -> dict[int, int]:
    """Joints by number: from 0 where the first is a bone of the palm, else from 1."""
    first = 1
    if len(chain) > 2:
        near, next_one = (float(np.linalg.norm(tree.at[j] - wrist)) for j in chain[:2])
        first = 0 if near < NEAR * next_one and tree.bones[chain[1]] > tree.bones[chain[2]] else 1
    return {first + n: j for n, j in enumerate(chain)}
