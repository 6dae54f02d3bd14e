"""A body as a feed brought it, in JSON lines: a line with its skeleton, then a packet a line with when it was.

    {"skeleton": [["hips", "", [0, 0.9, 0], [0, 0, 0, 1]], ...], "timecode": "10:00:00:12"}
    {"seconds": 0.0, "joints": {"hips": [0, 0, 0, 1], ...}, "root": [0, 0.9, 0]}

A row of the skeleton is a joint's name, the name above or "", its place from there in metres and its local rotation, both at
rest. Packets may be late, doubled or lost; what a packet does not say stays as it was. The timecode is that of the first packet, at 60
frames a second with a remainder unless "timecodeRate" says otherwise.
"""

from collections.abc import Sequence
from fractions import Fraction
from typing import Any

import numpy as np
import orjson

from dynaface.core.body.rotations import Array, continuous, normalised
from dynaface.core.body.skeleton import Motion, Skeleton
from dynaface.core.clock.rates import format_rate, nominal_rate, parse_rate
from dynaface.core.clock.timecode import labelled, noted, parse_timecode
from dynaface.core.errors import InputError, LimitError
from dynaface.core.feed.joint_rows import rows_of, skeleton_of
from dynaface.core.feed.packet import JointRow, Packet
from dynaface.formats.feed_line import body_fields, parse_rows, read_line
from dynaface.formats.format import Format

MOST_LINES = 1_000_000
MOST_FILLED, LEAST_FILLED = 10, 10_000  # frames for each packet, and besides
LONGEST = 4 * 3600.0  # seconds
FASTEST = Fraction(240)
_COUNTED = "60"  # frames a second of a timecode that names no rate


def detect(head: bytes) -> bool:
    """An object that begins with a skeleton."""
    return head.lstrip(b"\xef\xbb\xbf \t\r\n").replace(b" ", b"")[:13] == b'{"skeleton":['


def read(data: bytes) -> Motion:
    """The motion, even in time; raises InputError with the line."""
    lines = data.splitlines()
    head = _object(lines[0] if lines else b"", 1)
    if not isinstance(head.get("skeleton"), list):
        raise InputError("the first line has no skeleton", where="line 1")
    rows = parse_rows(head["skeleton"])
    skeleton = skeleton_of(rows)
    if len(lines) > MOST_LINES:
        raise LimitError(f"the motion has {len(lines)} packets", hint=f"At most {MOST_LINES} are read")
    times, local, root = _packets(skeleton, lines[1:])
    code = None
    if head.get("timecode"):
        code = parse_timecode(str(head["timecode"]), parse_rate(str(head.get("timecodeRate") or _COUNTED)))
    rate = min(nominal_rate(times), FASTEST) if len(times) > 1 else FASTEST
    packets = Motion(skeleton, local, root, rate, code)
    if len(times) < 2:
        return packets
    if (times[-1] - times[0]) * float(rate) > MOST_FILLED * len(times) + LEAST_FILLED:
        raise LimitError(
            "the times of the packets leave far longer gaps than they fill", hint="Cut the file into several"
        )
    even = times[0] + np.arange(round((times[-1] - times[0]) * float(rate)) + 1) / float(rate)
    # Places of the even moments among the packets, in packets: as a motion at one rate would be asked.
    at = np.interp(even, times, np.arange(len(times)))
    turned, moved = packets.at(at / float(rate))
    return Motion(skeleton, continuous(turned), moved, rate, code)


def write(motion: Motion) -> bytes:
    """A motion as packets, one a frame."""
    code = motion.timecode
    head = head_line(rows_of(motion.skeleton), labelled(code) if code else "", format_rate(code.rate) if code else "")
    names, places = motion.skeleton.names, motion.root + motion.skeleton.offsets[0]
    lines = [head]
    for number, (turns, (x, y, z)) in enumerate(zip(motion.local.tolist(), places.tolist(), strict=True)):
        packet = Packet(joints={n: (q[0], q[1], q[2], q[3]) for n, q in zip(names, turns, strict=True)}, root=(x, y, z))
        lines.append(orjson.dumps({"seconds": round(number / float(motion.rate), 6)} | body_fields(packet)))
    return b"\n".join(lines) + b"\n"


def head_line(rows: Sequence[JointRow], timecode: str = "", rate: str = "") -> bytes:
    """The first line without its end. timecode, rate: of the first packet, "" where they are not known."""
    said = {"skeleton": [list(row) for row in rows], "timecode": timecode, "timecodeRate": rate}
    return orjson.dumps({name: value for name, value in said.items() if value})


def _object(line: bytes, number: int) -> dict[str, Any]:
    try:
        said = orjson.loads(line)
    except ValueError:
        said = None
    if not isinstance(said, dict):
        raise InputError("this line is no JSON object", where=f"line {number}", hint="The file may have been cut off")
    return said


def _packets(skeleton: Skeleton, lines: list[bytes]) -> tuple[Array, Array, Array]:
    """(times (packets,) in seconds, local (packets, joints, 4), root (packets, 3)), in the order of their times."""
    places = {name: joint for joint, name in enumerate(skeleton.names)}
    found: dict[float, Packet] = {}
    for number, line in enumerate(lines, 2):
        if not line.strip():
            continue
        if number == len(lines) + 1 and not line.rstrip().endswith(b"}"):
            break  # a recording that was cut off ends in the midst of a packet
        try:
            packet = read_line(line.decode("utf-8", "replace"))
        except InputError as error:
            raise InputError(error.message, where=f"line {number}", hint=error.hint) from None
        if packet.seconds is None or not packet.joints:
            raise InputError("a packet is its seconds and its joints", where=f"line {number}")
        found.setdefault(packet.seconds, packet)
    if not found:
        raise InputError("there is no packet of a body", where=f"line {len(lines) + 1}", hint="It was cut off")
    times = np.array(sorted(found))
    if times[-1] - times[0] > LONGEST:
        raise LimitError(f"the motion is {times[-1] - times[0]:.0f} s long", hint=f"At most {LONGEST:.0f} s are read")
    local, root = np.empty((len(times), len(places), 4)), np.zeros((len(times), 3))
    turns, way = skeleton.rest.copy(), np.zeros(3)
    for number, moment in enumerate(times.tolist()):
        packet = found[moment]
        for name, turn in packet.joints.items():
            if name in places:
                turns[places[name]] = turn
        if packet.root is not None:
            way = np.array(packet.root) - skeleton.offsets[0]
        local[number], root[number] = turns, way
    return times, normalised(continuous(local)), root


def _check(motion: Motion) -> dict[str, Any]:
    return {"frames": motion.frames, "rate": format_rate(motion.rate), "seconds": motion.seconds,
            "joints": len(motion.skeleton.names), "notes": [], **noted(motion.timecode)}  # fmt: skip


FORMAT = Format("body lines", "body in JSON lines (.jsonl)", "body", (".jsonl",), detect, read, write, _check, 512_000_000)  # fmt: skip
