"""A packet of a feed as a JSON object on one line, in our own form, and what any other object says.

    {"performer": "Mara", "number": 12, "seconds": 0.2, "timecode": "10:00:00:12",
     "channels": {"jawOpen": 0.3}, "joints": {"head": [0, 0, 0, 1]}, "root": [0, 0, 0]}

Each field may be left out. An object with neither channels nor joints is flattened, as tables of JSON lines are.
"""

import json
import math
from dataclasses import replace
from typing import Any

import orjson

from dynaface.core.errors import InputError
from dynaface.core.feed.messages import MOST, MOST_COUNT
from dynaface.core.feed.packet import MOST_SIGNALS, Packet
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
    if not any(isinstance(said.get(part), dict) for part in OURS):
        flat = flat_values(said)
        values = {n: float(v) for n, v in flat.items() if _number(v) is not None and n not in ("number", "seconds")}
        return _bounded(replace(head, values=values))
    channels, joints = (said[p] if isinstance(said.get(p), dict) else {} for p in OURS)
    values = {str(n): float(v) for n, v in channels.items() if _number(v) is not None}
    turns = {str(n): _turn(str(n), v) for n, v in joints.items()}
    root = said.get("root")
    if root is not None and not _numbers(root, 3):
        raise InputError(f"root is {root!r:.60}; it must be 3 numbers", where="root")
    return _bounded(replace(head, values=values, joints=turns, root=tuple(root) if root else None, ours=True))


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
    if packet.joints:
        said["joints"] = {n: [round(v, 6) for v in q] for n, q in packet.joints.items()}
    if packet.root is not None:
        said["root"] = [round(v, 6) for v in packet.root]
    return orjson.dumps(said).decode()


def _bounded(packet: Packet) -> Packet:
    if len(packet.values) > MOST_SIGNALS or len(packet.joints) > MOST_SIGNALS:
        raise InputError(f"a packet holds more than {MOST_SIGNALS} values")
    bounded([packet.performer, packet.timecode, *packet.values, *packet.joints], "a name")
    return packet


def _turn(name: str, given: Any) -> tuple[float, float, float, float]:
    size = math.hypot(*given) if _numbers(given, 4) else 0.0
    if size < 1e-6:
        raise InputError(f"the rotation of {name[:40]!r} is {given!r:.60}; it must be 4 numbers", where=f"joints/{name[:40]}")  # fmt: skip
    x, y, z, w = (v / size for v in given)
    return x, y, z, w


def _numbers(given: Any, count: int) -> bool:
    return isinstance(given, list) and len(given) == count and all(_number(v) is not None for v in given)


def _number(given: Any, most: float = MOST) -> float | None:
    return float(given) if is_number(given) and abs(given) < most else None


def _whole(given: Any) -> int | None:
    return given if isinstance(given, int) and not isinstance(given, bool) and 0 <= given < 1 << 60 else None
