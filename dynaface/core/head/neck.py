"""Head and neck: who moves the head.

The face take saw the head turn; so did the body. The head's turn against the chest is one or the other, or something
between them by a weight, never both: it replaces the neck joints' own turn and is spread evenly over the chain.
"""

import numpy as np

from dynaface.core.body.rotations import IDENTITY, Array, continuous, inverse, multiply, normalised, slerp
from dynaface.core.body.skeleton import Skeleton
from dynaface.core.match.anatomy import anatomy_of

SURE = 0.5  # of an unnamed head, from which on it is one
LEAST_TURN = 1e-3  # radians in all below which a chain does not turn


def head_chain(skeleton: Skeleton) -> list[int]:
    """Joints from the lowest neck joint to the head; only the head where there is no neck; [] without a head. By what they are called where
    that is plain, else by what the skeleton's tree and rest pose say.
    """
    return _named_chain(skeleton) or _found_chain(skeleton)


def _found_chain(skeleton: Skeleton) -> list[int]:
    anatomy = anatomy_of(skeleton)
    head = anatomy.joint("head")
    if head < 0 or anatomy.sure[head] < SURE:
        return []
    necks = set(anatomy.chain("neck"))
    chain = [head]
    while skeleton.parents[chain[-1]] in necks:
        chain.append(skeleton.parents[chain[-1]])
    return chain[::-1]


def _named_chain(skeleton: Skeleton) -> list[int]:
    heads = [i for i, n in enumerate(skeleton.names) if n.lower().rsplit(":", 1)[-1] == "head"]
    if not heads:
        return []
    chain = [heads[0]]
    while (parent := skeleton.parents[chain[-1]]) >= 0 and "neck" in skeleton.names[parent].lower():
        chain.append(parent)
    return chain[::-1]


def chain_from(skeleton: Skeleton, joint: str) -> list[int]:
    """Joints from one that carries the head up to it; those of `head_chain` where it does not carry the head, or is none."""
    chain = head_chain(skeleton)
    if not chain or joint not in skeleton.names:
        return chain
    return skeleton.chain(joint, skeleton.names[chain[-1]]) or chain


def measured_shares(local: Array) -> Array:
    """(joints,) how much each joint of a chain turns about how it is held on average, by its local rotations (frames, joints, 4); all alike
    where nothing turns.
    """
    if not len(local):
        return np.ones(local.shape[1])
    held = normalised(np.sum(continuous(local), axis=0))
    away = multiply(inverse(held)[None], local)
    angle = 2 * np.arccos(np.clip(np.abs(away[..., 3]), 0, 1))
    out = np.sqrt(np.mean(angle**2, axis=0))
    return out if out.sum() > LEAST_TURN else np.ones(local.shape[1])


def chain_shared(turns: Array, base: Array, chain: list[int], head: Array, weight: Array, shares: Array) -> Array:
    """As `chain_turns`, but each joint keeps how the body turns it and takes on its share of what the head is to turn beyond that; shares:
    (chain,) weights, of any sum.
    """
    own = multiply(inverse(base)[:, None], turns[:, chain])
    beyond = slerp(IDENTITY, multiply(head, inverse(own[:, -1])), weight)
    upto = np.cumsum(shares) / max(float(np.sum(shares)), 1e-9)
    upto[-1] = 1.0
    return multiply(
        base[:, None], multiply(slerp(IDENTITY, beyond[:, None], np.broadcast_to(upto, own.shape[:2])), own)
    )


def chain_turns(turns: Array, base: Array, chain: list[int], head: Array, weight: Array) -> Array:
    """World turns of the chain (frames, chain, 4) with the head's by weight.

    turns: (frames, joints, 4) of the body; base: (frames, 4) the turn of the joint that carries the chain; head:
    (frames, 4) the face take's head rotation against it; weight: (frames,) 0 the body's own head .. 1 the face take's.
    """
    out = np.empty((len(turns), len(chain), 4))
    still = np.broadcast_to(IDENTITY, head.shape)
    for number, joint in enumerate(chain, 1):
        own = multiply(inverse(base), turns[:, joint])
        asked = slerp(still, head, number / len(chain))
        out[:, number - 1] = multiply(base, slerp(own, asked, weight))
    return out


def local_of_chain(skeleton: Skeleton, base: Array, chain: list[int], turns: Array) -> Array:
    """Local rotations (frames, chain, 4) of world turns; base as in chain_turns. What hangs on the chain follows."""
    rest, _ = skeleton.global_rest()
    above = skeleton.parents[chain[0]]
    parent = multiply(base, rest[above]) if above >= 0 else base
    out = np.empty_like(turns)
    for number, joint in enumerate(chain):
        here = multiply(turns[:, number], rest[joint])
        out[:, number] = normalised(multiply(inverse(parent), here))
        parent = here
    return out
