"""Labelled 3D points as a plain table: a row a frame, three columns a marker (docs/formats.md)."""

import io
import re
from fractions import Fraction

import numpy as np
from numpy.typing import NDArray

from dynaface.core.clock.rates import parse_rate
from dynaface.core.clock.timecode import Timecode, parse_timecode
from dynaface.core.errors import InputError
from dynaface.core.markers.take import MarkerTake
from dynaface.formats.format import Format
from dynaface.formats.marker_report import UNITS, describe_markers
from dynaface.formats.table.cells import MAX_BYTES, Cells, decode, read_cells
from dynaface.formats.table.marker_header import FEWEST, marker_columns, marker_header

FACE = 0.06  # metres: about how far the markers of a face lie from their middle
_TIME = ("time", "time [s]", "time (s)", "seconds", "t")
_SAID = re.compile(r"^#\s*(unit|rate|timecode)\s*[:=]\s*(.+?)\s*$", re.IGNORECASE)


def detect(head: bytes) -> bool:
    """Text whose header names x, y and z of at least three markers."""
    if b"\x00" in head:
        return False
    lines = head.decode("utf-8-sig", errors="ignore").splitlines()
    return any(marker_header(line) for line in [ln for ln in lines[:40] if ln.strip() and not ln.startswith("#")][:1])


def read(data: bytes) -> MarkerTake:
    """The markers in metres; a blank cell is a marker that was not seen. Raises InputError with the place."""
    if len(data) <= MAX_BYTES and not detect(data[:65536]):
        raise InputError("this is no table of markers", where="line 1",
                         hint=f"Its header names x, y and z of at least {FEWEST} markers, as in M01.x,M01.y,M01.z")  # fmt: skip
    said = _said(data)
    cells = read_cells(data)
    if cells.broken:
        raise cells.broken[0][1]
    columns = marker_columns(cells.header)
    points = cells.numbers[:, [c for triple in columns.values() for c in triple]].reshape(len(cells.numbers), -1, 3)
    points = np.where(np.isfinite(points).all(axis=2, keepdims=True), points, np.nan)
    rate = _rate(cells, said)
    points = points * _size(said.get("unit", ""), points)
    return MarkerTake(tuple(columns), points, rate, _timecode(said, rate))


def _said(data: bytes) -> dict[str, str]:
    """What comment lines before the header say: unit, rate, timecode of the first frame."""
    out = {}
    for line in decode(data[:65536]).splitlines()[:40]:
        if match := _SAID.match(line):
            out[match[1].lower()] = match[2]
    return out


def _rate(cells: Cells, said: dict[str, str]) -> Fraction:
    if "rate" in said:
        return parse_rate(said["rate"])
    for column, name in enumerate(cells.header):
        times = cells.numbers[:, column]
        if name.strip().lower() in _TIME and len(times) > 1 and np.isfinite(times).all():
            step = float(np.median(np.diff(times)))
            uneven = np.flatnonzero(np.abs(np.diff(times) - step) > 0.5 * step)
            if step <= 0 or len(uneven):
                row = int(uneven[0]) + 1 if len(uneven) else 1
                raise InputError("the rows are not even in time", where=f"line {cells.first_line + row}",
                                 hint="Export one row for each frame; leave the cells of unseen markers blank")  # fmt: skip
            return parse_rate(1 / step)
    raise InputError("the table says neither times nor a rate", where="line 1",
                     hint='Give it a column "time" in seconds, or a first line "# rate: 120"')  # fmt: skip


def _size(unit: str, points: NDArray[np.float64]) -> float:
    """Metres of one unit: as said, else the one in which the markers are about as large as a face."""
    if unit:
        if unit.lower() not in UNITS:
            raise InputError(f"the unit is {unit!r}", where="line 1", hint=f"Known are {', '.join(UNITS)}")
        return UNITS[unit.lower()]
    seen = points[np.isfinite(points[..., 0]).sum(axis=1) >= FEWEST]
    if not len(seen):
        raise InputError(f"no row shows {FEWEST} markers")
    spread = float(np.nanmedian(np.linalg.norm(seen[0] - np.nanmedian(seen[0], axis=0), axis=1)))
    return min((1e-3, 1e-2, 1.0), key=lambda s: abs(np.log(max(spread * s, 1e-9) / FACE)))


def _timecode(said: dict[str, str], rate: Fraction) -> Timecode | None:
    return parse_timecode(said["timecode"], rate) if "timecode" in said else None


def write(take: MarkerTake) -> bytes:
    """The table, in millimetres."""
    out = io.StringIO()
    out.write(f"# unit: mm\n# rate: {take.rate}\n")
    if take.timecode is not None:
        out.write(f"# timecode: {take.timecode}\n")
    out.write(",".join(["frame", "time", *(f"{n.replace(',', ' ')}.{a}" for n in take.labels for a in "xyz")]) + "\n")
    for frame, row in enumerate((take.points * 1000).reshape(take.frames, -1).tolist()):
        cells = ",".join("" if v != v else f"{v:.4f}" for v in row)
        out.write(f"{frame},{frame / float(take.rate):.6f},{cells}\n")
    return out.getvalue().encode()


FORMAT = Format(
    "marker table",
    "table of markers (.csv)",
    "markers",
    (".csv", ".txt", ".tsv"),
    detect,
    read,
    write,
    describe_markers,
    MAX_BYTES,
)
