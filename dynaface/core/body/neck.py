"""Head and neck: who moves the head.

The face take saw the head turn; so did the body. The head's turn against the chest is one or the other, or something
between them by a weight, never both: it replaces the neck joints' own turn and is spread evenly over the chain.
"""

import numpy as np

from dynaface.core.body.rotations import IDENTITY, Array, inverse, multiply, slerp
from dynaface.core.body.skeleton import Skeleton


def head_chain(skeleton: Skeleton) -> list[int]:
    """Joints from the lowest neck joint to the head; only the head where there is no neck; [] without a head."""
    heads = [i for i, n in enumerate(skeleton.names) if n.lower().rsplit(":", 1)[-1] == "head"]
    if not heads:
        return []
    chain = [heads[0]]
    while (parent := skeleton.parents[chain[-1]]) >= 0 and "neck" in skeleton.names[parent].lower():
        chain.append(parent)
    return chain[::-1]


def with_head(skeleton: Skeleton, turns: Array, chain: list[int], head: Array, weight: Array) -> Array:
    """World turns (frames, joints, 4) with the chain's replaced by weight.

    head: (frames, 4) the face take's head rotation against the chest; weight: (frames,) 0 the body's own head,
    1 the face take's. Joints below the chain (eyes, jaw) keep their turn against the head.
    """
    if not chain:
        return turns
    base = skeleton.parents[chain[0]]
    chest = turns[:, base] if base >= 0 else np.broadcast_to(IDENTITY, turns[:, 0].shape)
    out = turns.copy()
    for number, joint in enumerate(chain, 1):
        own = multiply(inverse(chest), turns[:, joint])
        asked = slerp(np.broadcast_to(IDENTITY, head.shape), head, number / len(chain))
        out[:, joint] = multiply(chest, slerp(own, asked, weight))
    for joint in range(chain[-1] + 1, len(skeleton.names)):
        parent = skeleton.parents[joint]
        if joint not in chain and _below(skeleton, joint, chain):
            out[:, joint] = multiply(multiply(out[:, parent], inverse(turns[:, parent])), turns[:, joint])
    return out


def _below(skeleton: Skeleton, joint: int, chain: list[int]) -> bool:
    parent = skeleton.parents[joint]
    while parent >= 0:
        if parent in chain:
            return True
        parent = skeleton.parents[parent]
    return False
