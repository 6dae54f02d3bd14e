"""Optical markers as C3D: points in any unit, whole numbers or floats, any byte order; analogue channels are passed over."""

import struct
from fractions import Fraction
from typing import Any

import numpy as np

from dynaface.core.clock.rates import parse_rate
from dynaface.core.clock.timecode import Timecode, labelled, parse_timecode
from dynaface.core.errors import InputError, LimitError
from dynaface.core.markers.take import MarkerTake
from dynaface.formats.c3d.parameters import BLOCK, read_parameters, write_parameters
from dynaface.formats.format import Format
from dynaface.formats.marker_report import UNITS, describe_markers

MAX_POINTS, MAX_BYTES = 2000, 2_000_000_000
LABELS_EACH = 255  # a list holds no more: further labels stand in LABELS2, LABELS3 ...
COUNTED = 65535  # frames that the header can say; the trial's own fields say more


def detect(head: bytes) -> bool:
    """The second byte is the format's key, and the parameter section repeats who wrote it."""
    if len(head) < 1024 or head[1] != 0x50 or not 1 <= head[0] <= 100:
        return False
    at = (head[0] - 1) * BLOCK
    return at + 4 <= len(head) and head[at + 3] in (84, 85, 86)


def read(data: bytes) -> MarkerTake:
    """The markers in metres; raises InputError with the place in the file."""
    if not detect(data[:65536]):
        raise InputError("this is no C3D file", where="byte 0", hint="Export the markers as .c3d")
    values, numbers = read_parameters(data, data[0])
    head = numbers.integers(data[:BLOCK]).astype(np.int64)
    count, analogue = int(head[1]), int(head[2]) & 0xFFFF
    if not 1 <= count <= MAX_POINTS:
        raise InputError(f"the file has {count} markers", where="byte 2", hint=f"1 to {MAX_POINTS} are read")
    scale = float(numbers.floats(data[12:16])[0])
    start = (int(head[8]) & 0xFFFF) - 1
    first, last = int(head[3]) & 0xFFFF, int(head[4]) & 0xFFFF
    frames = _frames(values, last - first + 1)
    is_float = scale < 0
    each = (4 * count + analogue) * (4 if is_float else 2)
    at = start * BLOCK
    if start < 1 or at > len(data):
        raise InputError(f"the points are said to begin in block {start + 1}, which is not there", where="byte 16")
    if frames < 1 or frames * each > MAX_BYTES:
        raise LimitError(f"the file says that it has {frames} frames", hint="Cut it into several takes")
    if at + frames * each > len(data):
        raise InputError(f"the file says that it has {frames} frames, but {(len(data) - at) // each} are there",
                         where=f"byte {at}", hint="It was cut off; export it again")  # fmt: skip
    if frames == COUNTED and len(data) - at >= (frames + 1) * each + BLOCK:
        raise InputError(f"the file says that it has {COUNTED} frames, as many as its header can say, but {(len(data) - at) // each} are there",
                         where="TRIAL:ACTUAL_END_FIELD", hint="Export it with the fields of the trial, or in several takes")  # fmt: skip
    raw = data[at : at + frames * each]
    rows = (numbers.floats(raw) if is_float else numbers.integers(raw)).reshape(frames, -1)[:, : 4 * count]
    points = rows.reshape(frames, count, 4).astype(np.float64)
    unit = str(_text(values.get(("POINT", "UNITS"), "mm"))).lower()
    if unit not in UNITS:
        raise InputError(f"the points are in {unit!r}", where="POINT:UNITS", hint=f"Known are {', '.join(UNITS)}")
    size = UNITS[unit] * (1.0 if is_float else scale)
    with np.errstate(invalid="ignore"):
        seen = (points[..., 3] >= 0) & np.isfinite(points).all(axis=2) & (np.abs(points[..., :3]).max(axis=2) < 1e7)
    places = np.where(seen[..., None], points[..., :3] * size, np.nan)
    return MarkerTake(_labels(values, count), places, _rate(values, numbers.floats(data[20:24])[0]), _timecode(values))


def _frames(values: dict[tuple[str, str], Any], said: int) -> int:
    """Long takes do not fit the header's 16 bits: the trial's own fields win."""
    fields = [values.get(("TRIAL", f"ACTUAL_{n}_FIELD"), ()) for n in ("START", "END")]
    if all(len(f) == 2 and not isinstance(f, str) for f in fields):
        start, end = (int(f[0]) % 65536 + 65536 * (int(f[1]) % 65536) for f in fields)
        if end >= start:
            return end - start + 1
    return said


def _text(value: Any) -> str:
    return value if isinstance(value, str) else (value[0] if isinstance(value, list) and value else "")


def _labels(values: dict[tuple[str, str], Any], count: int) -> tuple[str, ...]:
    said: list[str] = []
    for name in ("LABELS", *(f"LABELS{i}" for i in range(2, 12))):
        held = values.get(("POINT", name), [])
        said += [held] if isinstance(held, str) else [str(h) for h in held]
    out: list[str] = []
    for i in range(count):
        name = said[i].rsplit(":", 1)[-1] if i < len(said) and said[i] else f"marker {i + 1}"
        out.append(name if name not in out else f"{name} ({i + 1})")
    return tuple(out)


def _rate(values: dict[tuple[str, str], Any], said: np.floating) -> Fraction:
    held = values.get(("POINT", "RATE"))
    rate = float(held[0]) if held is not None and len(held) else float(said)
    if not np.isfinite(rate) or not 1 <= rate <= 2000:
        raise InputError(
            f"the file says that its rate is {rate:g}", where="POINT:RATE", hint="Rates of 1 to 2000 are read"
        )
    return parse_rate(rate)


def _timecode(values: dict[tuple[str, str], Any]) -> Timecode | None:
    text, rate = _text(values.get(("TIMECODE", "TIMECODE"), "")), values.get(("TIMECODE", "RATE"))
    if not text or rate is None or not len(rate):
        return None
    return parse_timecode(text, parse_rate(float(rate[0])))


def write(take: MarkerTake) -> bytes:
    """The take as a C3D file: millimetres, floats, Intel order."""
    count = len(take.labels)
    lists = [list(take.labels[i : i + LABELS_EACH]) for i in range(0, count, LABELS_EACH)]
    point: dict[str, Any] = {
        "USED": count,
        "SCALE": -1.0,
        "UNITS": "mm",
        "RATE": float(take.rate),
        "FRAMES": min(take.frames, COUNTED),
    }
    point |= {f"LABELS{i + 1 if i else ''}": names for i, names in enumerate(lists)}
    groups: dict[str, dict[str, Any]] = {"POINT": point, "ANALOG": {"USED": 0}}
    if take.frames > COUNTED:
        fields = {"START": [1, 0], "END": [take.frames & 0xFFFF, take.frames >> 16]}
        groups["TRIAL"] = {f"ACTUAL_{end}_FIELD": words for end, words in fields.items()}
    if take.timecode is not None:
        groups["TIMECODE"] = {"TIMECODE": labelled(take.timecode), "RATE": float(take.timecode.rate)}
    parameters = write_parameters(groups)
    head = bytearray(BLOCK)
    start = 2 + len(parameters) // BLOCK
    struct.pack_into(
        "<BBHHHHHfHHf", head, 0, 2, 0x50, count, 0, 1, min(take.frames, COUNTED), 10, -1.0, start, 0, float(take.rate)
    )
    rows = np.zeros((take.frames, count, 4), "<f4")
    seen = np.isfinite(take.points[..., 0])
    rows[..., :3] = np.where(seen[..., None], take.points * 1000, 0)
    rows[..., 3] = np.where(seen, 0, -1)
    return bytes(head) + parameters + rows.tobytes()


FORMAT = Format("c3d", "C3D markers (.c3d)", "markers", (".c3d",), detect, read, write, describe_markers, MAX_BYTES)
