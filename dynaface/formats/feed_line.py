"""A packet of a feed as a JSON object on one line, in our own form, and what any other object says.

    {"performer": "Mara", "number": 12, "seconds": 0.2, "timecode": "10:00:00:12",
     "channels": {"jawOpen": 0.3}, "joints": {"head": [0, 0, 0, 1]}, "root": [0, 0, 0],
     "skeleton": [["head", "", [0, 1.6, 0], [0, 0, 0, 1]]]}

A row of the skeleton is a joint's name, the name above or "", its place from there and its local rotation, both at rest. Each field may be
left out. An object with none of channels, joints and skeleton is flattened, as tables of JSON lines are.
"""

import json
import math
from dataclasses import replace
from typing import Any

import orjson

from dynaface.core.errors import InputError
from dynaface.core.feed.arguments import MOST, MOST_COUNT
from dynaface.core.feed.body_messages import unit
from dynaface.core.feed.joint_rows import skeleton_of
from dynaface.core.feed.packet import MOST_SIGNALS, JointRow, Packet, Quaternion
from dynaface.core.plain import bounded, is_number
from dynaface.formats.table.json_lines import flat_values

MOST_LETTERS = 200_000
OURS = ("channels", "joints")


def read_line(line: str) -> Packet:
    """The packet of a line; raises InputError for one that holds none."""
    if len(line) > MOST_LETTERS:
        raise InputError(f"a line of {len(line)} letters", hint=f"At most {MOST_LETTERS}")
    try:
        said = json.loads(line)
    except (ValueError, RecursionError):
        said = None
    if not isinstance(said, dict):
        raise InputError(f"{line[:40]!r} is no JSON object")
    performer, timecode = said.get("performer"), said.get("timecode")
    head = Packet(
        str(performer)[:80] if isinstance(performer, str) else "",
        _whole(said.get("number")),
        _number(said.get("seconds"), MOST_COUNT),
        timecode[:20] if isinstance(timecode, str) else "",
    )
    if not any(isinstance(said.get(part), dict) for part in OURS) and not isinstance(said.get("skeleton"), list):
        flat = flat_values(said)
        values = {n: float(v) for n, v in flat.items() if _number(v) is not None and n not in ("number", "seconds")}
        return _bounded(replace(head, values=values))
    channels, joints = (said[p] if isinstance(said.get(p), dict) else {} for p in OURS)
    values = {str(n): float(v) for n, v in channels.items() if _number(v) is not None}
    turns = {str(n): _turn(str(n), v) for n, v in joints.items()}
    root = said.get("root")
    if root is not None and not _numbers(root, 3):
        raise InputError(f"root is {root!r:.60}; it must be 3 numbers", where="root")
    rows = parse_rows(said["skeleton"]) if said.get("skeleton") else ()
    return _bounded(replace(head, values=values, joints=turns, root=tuple(root) if root else None, skeleton=rows, ours=True))  # fmt: skip


def write_line(packet: Packet) -> str:
    """A packet whose signals are channels, in our form, without the end of the line."""
    said: dict[str, Any] = {}
    if packet.performer:
        said["performer"] = packet.performer
    if packet.number is not None:
        said["number"] = packet.number
    if packet.seconds is not None:
        said["seconds"] = round(packet.seconds, 6)
    if packet.timecode:
        said["timecode"] = packet.timecode
    said["channels"] = {n: round(v, 6) for n, v in packet.values.items() if math.isfinite(v)}
    said |= body_fields(packet)
    if packet.skeleton:
        said["skeleton"] = [list(row) for row in packet.skeleton]
    return orjson.dumps(said).decode()


def body_fields(packet: Packet) -> dict[str, Any]:
    """Joints and root of a packet, those that there are, as a line has them."""
    said: dict[str, Any] = {}
    if packet.joints:
        said["joints"] = {n: [round(v, 6) for v in q] for n, q in packet.joints.items()}
    if packet.root is not None:
        said["root"] = [round(v, 6) for v in packet.root]
    return said


def parse_rows(given: Any) -> tuple[JointRow, ...]:
    """The rows of a skeleton from plain data; raises InputError."""
    rows = []
    for number, row in enumerate(given if isinstance(given, list) else [given]):
        if not (isinstance(row, list) and len(row) == 4 and isinstance(row[0], str) and isinstance(row[1], str) and _numbers(row[2], 3)):  # fmt: skip
            raise InputError(f"{row!r:.60} is no joint of a skeleton", where=f"skeleton/{number}",
                             hint="A joint is its name, the name above, 3 numbers and 4 numbers")  # fmt: skip
        rows.append(JointRow(row[0], row[1], (row[2][0], row[2][1], row[2][2]), _turn(row[0], row[3])))
    bounded([name for row in rows for name in row[:2]], "a name")
    skeleton_of(rows)
    return tuple(rows)


def _bounded(packet: Packet) -> Packet:
    if len(packet.values) > MOST_SIGNALS or len(packet.joints) > MOST_SIGNALS:
        raise InputError(f"a packet holds more than {MOST_SIGNALS} values")
    bounded([packet.performer, packet.timecode, *packet.values, *packet.joints], "a name")
    return packet


def _turn(name: str, given: Any) -> Quaternion:
    turn = unit(given) if _numbers(given, 4) else None
    if turn is None:
        raise InputError(f"the rotation of {name[:40]!r} is {given!r:.60}; it must be 4 numbers", where=f"joints/{name[:40]}")  # fmt: skip
    return turn


def _numbers(given: Any, count: int) -> bool:
    return isinstance(given, list) and len(given) == count and all(_number(v) is not None for v in given)


def _number(given: Any, most: float = MOST) -> float | None:
    return float(given) if is_number(given) and abs(given) < most else None


def _whole(given: Any) -> int | None:
    return given if isinstance(given, int) and not isinstance(given, bool) and 0 <= given < 1 << 60 else None
