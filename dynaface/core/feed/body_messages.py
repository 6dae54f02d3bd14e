"""The arguments of a body and of its skeleton in our own layout, and back."""

import math
from collections.abc import Sequence
from dataclasses import replace
from typing import Any

from dynaface.core.errors import InputError
from dynaface.core.feed.arguments import number_of
from dynaface.core.feed.joint_rows import skeleton_of
from dynaface.core.feed.packet import JointRow, Packet, Quaternion

JOINT = 5  # a name and a rotation
ROW = 9  # a name, the name above, a place and a rotation
LEAST = 1e-6  # length of what is taken for a rotation


def with_body(head: Packet, rest: Sequence[Any], where: str) -> Packet:
    """A packet with the body of a message; rest: what stands after number, seconds and timecode."""
    root = _numbers(rest[:3])
    if len(root) < 3 or (len(rest) - 3) % JOINT:
        raise InputError("a body is its root (3 numbers), then a name and 4 numbers a joint", where=where)
    joints = {}
    for at in range(3, len(rest), JOINT):
        turn = unit(_numbers(rest[at + 1 : at + JOINT]))
        if not isinstance(rest[at], str) or turn is None:
            raise InputError("a joint is its name and a rotation of 4 numbers", where=where)
        joints[rest[at]] = turn
    return replace(head, joints=joints, root=(root[0], root[1], root[2]))


def with_skeleton(head: Packet, rest: Sequence[Any], where: str) -> Packet:
    """A packet with the skeleton of a message: a row a joint."""
    if not rest or len(rest) % ROW:
        raise InputError("a skeleton is a name, the name above, 3 numbers and 4 numbers a joint", where=where)
    rows = []
    for at in range(0, len(rest), ROW):
        name, parent, numbers = rest[at], rest[at + 1], _numbers(rest[at + 2 : at + ROW])
        turn = unit(numbers[3:])
        if not isinstance(name, str) or not isinstance(parent, str) or len(numbers) < ROW - 2 or turn is None:
            raise InputError("a joint of a skeleton is two names and 7 numbers", where=where)
        rows.append(JointRow(name, parent, (numbers[0], numbers[1], numbers[2]), turn))
    skeleton_of(rows)
    return replace(head, skeleton=tuple(rows))


def body_arguments(packet: Packet) -> list[Any]:
    """What stands after number, seconds and timecode of a body."""
    joints = [a for name, turn in packet.joints.items() for a in (name, *map(float, turn))]
    return [*map(float, packet.root or (0, 0, 0)), *joints]


def skeleton_arguments(rows: Sequence[JointRow]) -> list[Any]:
    """The arguments of a skeleton."""
    return [a for r in rows for a in (r.name, r.parent, *map(float, r.offset), *map(float, r.rest))]


def unit(given: Sequence[float]) -> Quaternion | None:
    """A rotation of length 1; None for what is none."""
    size = math.hypot(*given) if len(given) == 4 else 0.0
    if size < LEAST:
        return None
    x, y, z, w = (v / size for v in given)
    return x, y, z, w


def _numbers(arguments: Sequence[Any]) -> list[float]:
    return [v for v in map(number_of, arguments) if v is not None]
