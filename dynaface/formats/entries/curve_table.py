"""Curve tables: reads any delimited text with a column a channel, writes our own (docs/formats.md)."""

import io
from collections.abc import Iterator
from typing import Any

import numpy as np

from dynaface.core.clock.rates import format_rate
from dynaface.core.curves.channels import Channels, Floats
from dynaface.core.errors import InputError
from dynaface.core.shapes.standard import DISTANCES, GAZE_ANGLES, HEAD_ANGLES, HEAD_TRAVEL, SHAPES, unit_of
from dynaface.formats.format import Format
from dynaface.formats.table.cells import MAX_BYTES, Cells, read_cells
from dynaface.formats.table.json_lines import is_json_line
from dynaface.formats.table.marker_header import marker_header
from dynaface.formats.table.notes_header import notes_header
from dynaface.formats.table.reading import TableReport, timecode_at, to_recording
from dynaface.formats.table.recipe import parse_recipe
from dynaface.formats.table.understand import propose

ROWS = 4096  # rows that are written at a time


def read_table(data: bytes, corrections: dict[str, Any] | None = None) -> tuple[Any, TableReport]:
    """(Recording, report) of a table; corrections override parts of the proposed recipe."""
    return read_with(read_cells(data), corrections)


def read_with(cells: Cells, corrections: dict[str, Any] | None = None) -> tuple[Any, TableReport]:
    """As read_table, from cells already read."""
    recipe = propose(cells)
    if corrections:
        given = dict(corrections)
        if "columns" in given:
            given["columns"] = {**recipe.columns, **given["columns"]}
        recipe = parse_recipe(given, recipe)
    return to_recording(cells, recipe)


def detect(head: bytes) -> bool:
    """Text whose first line has a delimiter and whose second has numbers in it, or whose first lines are JSON objects with numbers."""
    if b"\x00" in head and head[:2] not in (b"\xff\xfe", b"\xfe\xff"):
        return False
    try:
        text = head.decode("utf-16" if head[:2] in (b"\xff\xfe", b"\xfe\xff") else "utf-8-sig", errors="ignore")
    except UnicodeError:
        return False
    lines = [ln for ln in text.splitlines()[:40] if ln.strip() and not ln.startswith("#")]
    if len(lines) >= 2 and is_json_line(lines[0]):
        return lines[1].lstrip().startswith("{") and '"skeleton"' not in lines[0][:20]
    if len(lines) < 2 or lines[0].lstrip().startswith(("{", "[", "<", "HIERARCHY")):
        return False
    if notes_header(lines[0]) or marker_header(lines[0]):
        return False
    delimiter = max("\t;,", key=lines[0].count)
    if lines[0].count(delimiter) < 1:
        return False
    first = lines[1].split(delimiter)
    return any(any(ch.isdigit() for ch in cell) for cell in first) or all(not c.strip() for c in first)


def write_table(channels: Channels) -> bytes:
    """Our own curve table: the channels that there are, a gap is a blank cell."""
    order = [n for n in (*HEAD_ANGLES, *HEAD_TRAVEL, *SHAPES, *GAZE_ANGLES, *DISTANCES) if n in channels.names]
    code = channels.timecode
    counted = f"@{format_rate(code.rate)}" if code and code.rate != channels.rate else ""
    header = ["frame", "time", f"timecode{counted}", *(n + unit_of(n) for n in order)]
    columns = channels.values[:, [channels.names.index(n) for n in order]]
    out = io.StringIO()
    out.write(",".join(header) + "\n")
    rate = float(channels.rate)
    for frame, row in enumerate(_rows(columns)):
        cells = ["" if v != v else f"{v:g}" if v == int(v) else f"{v:.6f}".rstrip("0") for v in row]
        time = channels.start + frame / rate
        label = timecode_at(channels.timecode, frame, channels.rate)
        out.write(f"{frame},{time:.6f},{label},{','.join(cells)}\n")
    return out.getvalue().encode()


def _rows(values: Floats) -> Iterator[list[float]]:
    """Each row as numbers of six digits after the point; some are made at a time, as numbers of Python are large."""
    for at in range(0, len(values), ROWS):
        yield from np.round(values[at : at + ROWS].astype(np.float64), 6).tolist()


def table_to_channels(data: bytes, filename: str = "the table") -> Channels:
    """A table that is already even in time, as Channels; raises InputError when it is not."""
    recording, report = read_table(data)
    timing = report.timing
    if timing.dropped or timing.doubled or timing.uneven:
        raise InputError(
            f"{filename} is uneven in time ({timing.dropped} dropped, {timing.doubled} doubled, {timing.uneven} uneven)",
            hint="Run `dynaface import` on it first",
        )
    start = float(recording.times[0]) if len(recording.times) else 0.0
    return Channels(recording.names, recording.values, recording.rate, start, recording.timecode)


def _check(read: tuple[Any, TableReport]) -> dict[str, Any]:
    return read[1].describe()


FORMAT = Format(
    name="curve table",
    label="curve table (.csv, .tsv, .txt, .jsonl)",
    kind="curves",
    extensions=(".csv", ".tsv", ".txt", ".jsonl", ".ndjson"),
    detect=detect,
    read=read_table,
    write=write_table,
    check=_check,
    limit=MAX_BYTES,
)

__all__ = ["FORMAT", "read_table", "read_with", "table_to_channels", "write_table"]
