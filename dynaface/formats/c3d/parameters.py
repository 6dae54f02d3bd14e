"""The parameter section of a C3D file: groups of named values."""

import struct
from dataclasses import dataclass
from typing import Any

import numpy as np

from dynaface.core.errors import InputError

INTEL, DEC, MIPS = 84, 85, 86
BLOCK = 512
_CODES = {-1: "S1", 1: "i1", 2: "i2", 4: "f4"}
MAX_RECORDS = 4000


@dataclass(frozen=True)
class Numbers:
    """How a file writes numbers: byte order ("<" or ">") and whether floats are of the DEC kind."""

    order: str
    dec: bool

    def integers(self, raw: bytes) -> np.ndarray:
        """int16 values."""
        return np.frombuffer(raw, f"{self.order}i2")

    def floats(self, raw: bytes) -> np.ndarray:
        """float32 values."""
        if not self.dec:
            return np.frombuffer(raw, f"{self.order}f4")
        words = np.frombuffer(raw, "<u2").reshape(-1, 2)[:, ::-1].ravel()
        with np.errstate(all="ignore"):
            return words.view("<f4") / np.float32(4)


def numbers_of(processor: int) -> Numbers:
    """By the processor byte; raises InputError for one that C3D does not know."""
    if processor not in (INTEL, DEC, MIPS):
        raise InputError(
            f"the file names processor {processor}", where="parameter section", hint="C3D knows 84, 85 and 86"
        )
    return Numbers(">" if processor == MIPS else "<", processor == DEC)


def read_parameters(data: bytes, first_block: int) -> tuple[dict[tuple[str, str], Any], Numbers]:
    """({(GROUP, NAME): value}, how numbers are written). Text is a str or a list of str, numbers are arrays."""
    at = (first_block - 1) * BLOCK
    if first_block < 1 or at + 4 > len(data):
        raise InputError(f"the parameters are said to begin in block {first_block}, which is not there", where="byte 0")
    numbers = numbers_of(data[at + 3])
    end = min(at + max(data[at + 2], 1) * BLOCK, len(data))
    at += 4
    groups: dict[int, str] = {}
    held: list[tuple[int, str, Any]] = []
    for _ in range(MAX_RECORDS):
        if at + 2 > end:
            break
        length, group = struct.unpack_from("<bb", data, at)
        if length == 0 or group == 0:
            break
        length = abs(length)
        name = data[at + 2 : at + 2 + length].decode("latin-1").strip().upper()
        link = at + 2 + length
        if link + 2 > end:
            raise InputError(
                f"the parameter {name[:20]!r} is cut off", where=f"byte {at}", hint="Export the file again"
            )
        step = int(numbers.integers(data[link : link + 2])[0])
        if group < 0:
            groups[-group] = name
        else:
            held.append((group, name, _value(data, link + 2, end, numbers, name)))
        if step <= 0:
            break
        at = link + step
    return {(groups.get(g, ""), n): v for g, n, v in held}, numbers


def _value(data: bytes, at: int, end: int, numbers: Numbers, name: str) -> Any:
    if at + 2 > end:
        raise InputError(f"the parameter {name[:20]!r} is cut off", where=f"byte {at}", hint="Export the file again")
    kind, dims = struct.unpack_from("<bB", data, at)
    if kind not in _CODES or dims > 7:
        raise InputError(f"the parameter {name[:20]!r} is of kind {kind} with {dims} dimensions", where=f"byte {at}")
    sizes = list(data[at + 2 : at + 2 + dims])
    count = int(np.prod(sizes, dtype=np.int64)) if sizes else 1
    start = at + 2 + dims
    raw = data[start : start + count * abs(kind)]
    if start + count * abs(kind) > end or len(sizes) != dims:
        raise InputError(
            f"the parameter {name[:20]!r} reads beyond the section",
            where=f"byte {at}",
            hint="The file is damaged; export it again",
        )
    if kind == -1:
        width = sizes[0] if sizes else 1
        texts = (
            [raw[i : i + width].decode("latin-1").strip("\0 ") for i in range(0, len(raw), max(width, 1))]
            if width
            else []
        )
        return texts if dims > 1 else "".join(texts)
    if kind == 4:
        return numbers.floats(raw).astype(np.float64)
    return numbers.integers(raw).astype(np.int64) if kind == 2 else np.frombuffer(raw, "u1").astype(np.int64)


def write_parameters(groups: dict[str, dict[str, Any]]) -> bytes:
    """The section, Intel order, padded to whole blocks. Values: str, list of str, int or list of int (int16), float or list."""
    body = bytearray()
    for number, (group, values) in enumerate(groups.items(), 1):
        name = group.encode("latin-1")
        body += struct.pack("<bb", len(name), -number) + name + struct.pack("<hB", 3, 0)
        for key, value in values.items():
            label = key.encode("latin-1")
            made = _packed(value)
            body += struct.pack("<bb", len(label), number) + label + struct.pack("<h", len(made) + 3) + made + b"\0"
    body += b"\0\0"
    blocks = -(-(len(body) + 4) // BLOCK)
    if blocks > 255:
        raise InputError("there are too many markers for a C3D file", hint="At most about 2000")
    return bytes([1, 0x50, blocks, INTEL]) + bytes(body) + bytes(blocks * BLOCK - 4 - len(body))


def _packed(value: Any) -> bytes:
    if isinstance(value, str):
        return struct.pack("<bBB", -1, 1, len(value)) + value.encode("latin-1", "replace")
    if isinstance(value, list) and value and isinstance(value[0], str):
        width = max(max(len(v) for v in value), 1)
        text = b"".join(v.encode("latin-1", "replace").ljust(width)[:width] for v in value)
        return struct.pack("<bBBB", -1, 2, width, len(value)) + text
    if isinstance(value, list):
        return struct.pack(f"<bBB{len(value)}H", 2, 1, len(value), *value)
    if isinstance(value, float):
        return struct.pack("<bBf", 4, 0, value)
    return struct.pack("<bBH", 2, 0, int(value) & 0xFFFF)
