"""How a skeleton is known again: by its joints' names, without what stands before a colon, and how they hang on each other."""

import hashlib

from dynaface.core.body.skeleton import Skeleton


def bare(name: str) -> str:
    """A joint's name without the scene that it stood in."""
    return name.rsplit(":", 1)[-1]


def skeleton_mark(skeleton: Skeleton) -> str:
    """Sixteen hexadecimal digits, the same for skeletons with the same joints."""
    rows = (f"{bare(name)}\t{parent}" for name, parent in zip(skeleton.names, skeleton.parents, strict=True))
    return hashlib.sha256("\n".join(rows).encode()).hexdigest()[:16]


def full_names(skeleton: Skeleton) -> dict[str, str]:
    """Bare name -> name as the skeleton has it."""
    return {bare(name): name for name in reversed(skeleton.names)}
