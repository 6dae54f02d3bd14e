"""Text to a header and a block of numbers, in one pass and bounded memory."""

import csv
import io
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from dynaface.core.errors import InputError, LimitError

MAX_BYTES = 256_000_000
MAX_COLUMNS = 512
MAX_ROWS = 2_000_000
_BLANK = frozenset(("", "nan", "na", "n/a", "null", "none", "-", "nan(ind)", "-nan", "-nan(ind)"))
_INFINITE = frozenset(("inf", "-inf", "+inf", "infinity", "-infinity", "1.#inf", "-1.#inf"))


@dataclass(frozen=True)
class Cells:
    """header: stripped names; numbers: (rows, columns) float64, blank cells NaN; first_line: of the first row (from 1).

    texts: for columns whose first cell is no number, all their cells as text (timecode), by column.
    """

    header: tuple[str, ...]
    numbers: NDArray[np.float64]
    texts: dict[int, list[str]]
    first_line: int


def decode(data: bytes) -> str:
    """UTF-8 (with or without mark), UTF-16 with mark, else Latin-1; binary content is refused."""
    if data[:2] in (b"\xff\xfe", b"\xfe\xff"):
        try:
            return data.decode("utf-16")
        except UnicodeDecodeError as error:
            raise InputError("the text is marked as UTF-16 but breaks off", where=f"byte {error.start}") from None
    if b"\x00" in data:
        raise InputError("this is no text", where=f"byte {data.index(bytes(1))}", hint="Export the curves as a table")
    try:
        return data.decode("utf-8-sig")
    except UnicodeDecodeError:
        return data.decode("latin-1")


def delimiter_of(header_line: str) -> str:
    """Comma, semicolon or tab: the one that cuts the header into most columns; raises when there is none."""
    counts = {d: header_line.count(d) for d in ("\t", ";", ",")}
    best = max(counts, key=lambda d: counts[d])
    if counts[best] == 0:
        raise InputError(
            "this is no table: its first line has no comma, semicolon or tab",
            where="line 1",
            hint="A curve table has a header line with a column for each shape",
        )
    return best


def read_cells(data: bytes) -> Cells:
    """The table in the bytes; raises InputError with line and column."""
    if len(data) > MAX_BYTES:
        raise LimitError(f"the table has {len(data) / 1e6:.0f} MB", hint=f"At most {MAX_BYTES / 1e6:.0f} MB are read")
    text = decode(data)
    start = 0
    lines_before = 0
    while True:  # blank and comment lines before the header
        stop = text.find("\n", start)
        line = text[start : stop if stop >= 0 else len(text)]
        if line.strip() and not line.lstrip().startswith("#"):
            break
        if stop < 0:
            raise InputError("the table is empty", hint="Export it again from the device")
        start, lines_before = stop + 1, lines_before + 1
    delimiter = delimiter_of(line)
    body = text[start:] if start else text
    if (clean := _clean(body, delimiter, lines_before)) is not None:
        return clean
    reader = csv.reader(io.StringIO(body, newline=""), delimiter=delimiter)
    try:
        return _rows(reader, delimiter, lines_before)
    except csv.Error as error:
        raise InputError(f"the table breaks off: {error}", where=f"line {lines_before + reader.line_num}") from None


def _clean(body: str, delimiter: str, before: int) -> Cells | None:
    """The quick way for a table without a fault or a blank; None where the careful way must look."""
    lines = body.split("\n")
    while lines and not lines[-1].strip():
        lines.pop()
    width = lines[0].count(delimiter) + 1
    if len(lines) < 2 or '"' in body or body.count(delimiter) != len(lines) * (width - 1) or width > MAX_COLUMNS:
        return None
    header = tuple(h.strip() for h in lines[0].split(delimiter))
    first = lines[1].split(delimiter)
    text = {i for i, c in enumerate(first) if not _is_number(c)}
    if len(set(header)) != width or "" in header or len(lines) > MAX_ROWS or len(text) == width:
        return None
    if delimiter != "," and any(_is_number(first[i].replace(",", ".", 1)) for i in text):
        return None  # decimal commas
    blank = {i for i in text if not first[i].strip()}
    if sum(map(_is_number, header)) > width // 2:
        return None
    numeric = [i for i in range(width) if i not in text]
    try:
        block = np.loadtxt(lines[1:], delimiter=delimiter, usecols=numeric, comments=None, ndmin=2)
    except ValueError:
        return None
    if len(block) != len(lines) - 1 or np.isinf(block).any():
        return None
    numbers = np.full((len(block), width), np.nan)
    numbers[:, numeric] = block
    cut = [line.split(delimiter) for line in lines[1:]] if text else []
    if any(c[i].strip() for i in blank for c in cut):
        return None
    return Cells(header, numbers, {i: [c[i].strip() for c in cut] for i in text - blank}, before + 2)


def _rows(reader: Any, delimiter: str, before: int) -> Cells:
    header = tuple(h.strip().strip('"') for h in next(reader))
    while header and not header[-1]:
        header = header[:-1]
    if len(header) > MAX_COLUMNS:
        raise LimitError(f"the table has {len(header)} columns", hint=f"At most {MAX_COLUMNS} are read")
    if sum(_is_number(h) for h in header) > len(header) // 2:
        raise InputError("the first line holds numbers where column names should be", where=f"line {before + 1}",
                         hint="Add a header line that names the columns")  # fmt: skip
    width = len(header)
    seen: dict[str, int] = {}
    for number, name in enumerate(header, 1):
        if name and name in seen:
            raise InputError(f"two columns are named {name!r}", where=f"columns {seen[name]} and {number}")
        seen[name] = number
    texts: dict[int, list[str]] = {}
    block: list[list[float]] = []
    lines: list[int] = []
    parts: list[NDArray[np.float64]] = []
    rows = 0
    first_line = 0
    decimal_comma = False
    for row in reader:
        if not row or (len(row) == 1 and not row[0].strip()):
            continue
        line = before + reader.line_num
        if not first_line:
            first_line = line
            decimal_comma = delimiter != "," and any(_is_number(c.replace(",", ".", 1)) and "," in c for c in row)
            texts = {i: [] for i, c in enumerate(row[:width]) if _is_text(c, decimal_comma)}
        if len(row) != width:
            row = _fitted(row, width, line)
        if decimal_comma:
            row = [c.replace(",", ".", 1) for c in row]
        for i, column in texts.items():
            column.append(row[i].strip())
        block.append(_numbers(row, texts, header, line))
        lines.append(line)
        rows += 1
        if len(block) == 8192:
            parts.append(_packed(block, lines, header))
            block.clear()
            lines.clear()
            if rows > MAX_ROWS:
                raise LimitError(f"the table has more than {MAX_ROWS} rows", hint="Cut it into several recordings")
    if block:
        parts.append(_packed(block, lines, header))
    if not parts:
        raise InputError("the table has a header but no rows", where=f"line {before + 1}")
    return Cells(header, np.concatenate(parts), texts, first_line)


def _fitted(row: list[str], width: int, line: int) -> list[str]:
    while len(row) > width and not row[-1].strip():
        row = row[:-1]
    if len(row) != width:
        raise InputError(
            f"this row has {len(row)} cells where the header has {width}",
            where=f"line {line}",
            hint="The file may have been cut off; export it again",
        )
    return row


def _numbers(row: list[str], texts: dict[int, list[str]], header: tuple[str, ...], line: int) -> list[float]:
    try:
        if not texts:
            return [float(c) if c else np.nan for c in row]
        return [np.nan if i in texts or not c else float(c) for i, c in enumerate(row)]
    except ValueError:
        return [np.nan if i in texts else _number(c, header[i], line) for i, c in enumerate(row)]


def _packed(block: list[list[float]], lines: list[int], header: tuple[str, ...]) -> NDArray[np.float64]:
    """The rows as an array; raises InputError at the first infinite value."""
    packed = np.array(block, np.float64)
    infinite = np.argwhere(np.isinf(packed))
    if len(infinite):
        row, column = infinite[0]
        where = f"line {lines[row]}, column {header[column]!r}"
        raise InputError("infinite value", where=where, hint="Mend or blank the cell")
    return packed


def _number(cell: str, column: str, line: int) -> float:
    try:
        return float(cell)
    except ValueError:
        text = cell.strip().lower()
        if text in _BLANK:
            return np.nan
        if text in _INFINITE:
            raise InputError("infinite value", where=f"line {line}, column {column!r}",
                             hint="Mend or blank the cell") from None  # fmt: skip
        raise InputError(f"{cell.strip()[:40]!r} is no number", where=f"line {line}, column {column!r}",
                         hint="Mend or blank the cell") from None  # fmt: skip


def _is_number(text: str) -> bool:
    try:
        float(text)
    except ValueError:
        return False
    return bool(text.strip())


def _is_text(cell: str, decimal_comma: bool) -> bool:
    text = cell.replace(",", ".", 1) if decimal_comma else cell
    return not _is_number(text) and text.strip().lower() not in _BLANK | _INFINITE
