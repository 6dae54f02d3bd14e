"""Skeletons to the rows that packets carry, and back."""

from collections.abc import Sequence

import numpy as np

from dynaface.core.body.skeleton import Skeleton
from dynaface.core.errors import InputError, LimitError
from dynaface.core.feed.packet import JointRow

MOST_JOINTS = 500


def rows_of(skeleton: Skeleton) -> tuple[JointRow, ...]:
    """The joints of a skeleton."""
    return tuple(
        JointRow(name, skeleton.names[parent] if parent >= 0 else "", (x, y, z), (a, b, c, d))
        for name, parent, (x, y, z), (a, b, c, d) in zip(
            skeleton.names, skeleton.parents, skeleton.offsets.tolist(), skeleton.rest.tolist(), strict=True
        )
    )


def skeleton_of(rows: Sequence[JointRow]) -> Skeleton:
    """The skeleton of rows; raises InputError where a parent does not stand before its joint, LimitError for too many of them."""
    if not rows:
        raise InputError("a skeleton without joints")
    if len(rows) > MOST_JOINTS:
        raise LimitError(f"a skeleton of {len(rows)} joints", hint=f"At most {MOST_JOINTS}")
    places: dict[str, int] = {}
    parents = []
    for number, row in enumerate(rows):
        if row.name in places:
            raise InputError(f"the skeleton has two joints {row.name[:60]!r}", where=row.name[:60])
        if row.parent and row.parent not in places:
            raise InputError(f"{row.parent[:60]!r}, above {row.name[:60]!r}, does not stand before it", where=row.name[:60])  # fmt: skip
        parents.append(places[row.parent] if row.parent else -1)
        places[row.name] = number
    offsets = np.array([r.offset for r in rows], np.float64)
    return Skeleton(tuple(places), tuple(parents), offsets, np.array([r.rest for r in rows], np.float64))
