"""Text to a header and a block of numbers, in one pass and bounded memory."""

import csv
import io
from dataclasses import dataclass
from math import isinf
from typing import Any

import numpy as np
import orjson
from numpy.typing import NDArray

from dynaface.core.errors import InputError, LimitError

MAX_BYTES = 80_000_000
MAX_COLUMNS = 512
MAX_ROWS = 1_000_000
CHUNK = 4096  # rows that are parsed at a time
LOOKED_AT = 20  # cells that show whether a column holds text
MAX_BLANK = 10_000  # lines before the header and blank ones
MAX_BROKEN = 0.1  # share of rows that may be gaps
_BLANK = frozenset(("", "nan", "na", "n/a", "null", "none", "-", "nan(ind)", "-nan", "-nan(ind)"))
_INFINITE = frozenset(("inf", "-inf", "+inf", "infinity", "-infinity", "1.#inf", "-1.#inf"))


@dataclass(frozen=True)
class Cells:
    """header: stripped names; numbers: (rows, columns) float64, blank cells NaN; first_line: of the first row (from 1).

    texts: for columns whose first cell is no number, all their cells as text (timecode), by column. broken: rows that are not as
    the header says, counted from 0, with what is wrong; what could not be read of them is NaN, or "" where it is text.
    """

    header: tuple[str, ...]
    numbers: NDArray[np.float64]
    texts: dict[int, list[str]]
    first_line: int
    broken: tuple[tuple[int, InputError], ...] = ()


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
    if data.count(b"\n") > MAX_ROWS + MAX_BLANK:
        raise LimitError(f"the table has more than {MAX_ROWS} rows", hint="Cut it into several recordings")
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
    width = lines[0].count(delimiter) + 1 if lines else 0
    if len(lines) < 2 or '"' in body or body.count(delimiter) != len(lines) * (width - 1) or width > MAX_COLUMNS:
        return None
    header = tuple(h.strip() for h in lines[0].split(delimiter))
    first = lines[1].split(delimiter)
    text = {i for i, c in enumerate(first) if not _is_number(c)}
    second = lines[2].split(delimiter) if len(lines) > 2 else []
    if any(_is_number(second[i]) and first[i].strip() for i in text if i < len(second)):
        return None  # words in the first row alone
    if len(set(header)) != width or "" in header or len(lines) > MAX_ROWS or len(text) == width:
        return None
    if delimiter != "," and any(_is_number(first[i].replace(",", ".", 1)) for i in text):
        return None  # decimal commas
    blank = {i for i in text if not first[i].strip()}
    if sum(map(_is_number, header)) > width // 2:
        return None
    numeric = [i for i in range(width) if i not in text]
    cut = [line.split(delimiter) for line in lines[1:]] if text else []
    try:
        block = _parsed(lines[1:], delimiter, numeric, cut)
    except (ValueError, IndexError):
        return None
    if len(block) != len(lines) - 1 or np.isinf(block).any():
        return None
    numbers = np.full((len(block), width), np.nan)
    numbers[:, numeric] = block
    if any(c[i].strip() for i in blank for c in cut):
        return None
    return Cells(header, numbers, {i: [c[i].strip() for c in cut] for i in text - blank}, before + 2)


def _parsed(lines: list[str], delimiter: str, numeric: list[int], cut: list[list[str]]) -> NDArray[np.float64]:
    """(rows, columns) of the columns with numbers; cut: the cells where some columns hold text. Raises ValueError."""
    parts = []
    for at in range(0, len(lines), CHUNK):
        rows = [",".join([c[i] for i in numeric]) for c in cut[at : at + CHUNK]] if cut else lines[at : at + CHUNK]
        text = "],[".join(rows)
        try:
            # Rows of plain numbers are JSON too, and read ten times as fast as such.
            parts.append(np.array(orjson.loads(f"[[{text if cut else text.replace(delimiter, ',')}]]"), np.float64))
        except orjson.JSONDecodeError:
            usecols = None if cut else numeric
            mark = "," if cut else delimiter
            parts.append(np.loadtxt(rows, delimiter=mark, usecols=usecols, comments=None, ndmin=2))
    return np.concatenate(parts)


def _rows(reader: Any, delimiter: str, before: int) -> Cells:
    header = tuple(h.strip().strip('"') for h in next(reader))
    while header and not header[-1]:
        header = header[:-1]
    if len(header) > MAX_COLUMNS:
        raise LimitError(f"the table has {len(header)} columns", hint=f"At most {MAX_COLUMNS} are read")
    if sum(_is_number(h) for h in header) > len(header) // 2:
        raise InputError("the first line holds numbers where column names should be", where=f"line {before + 1}",
                         hint="Add a header line that names the columns")  # fmt: skip
    seen: dict[str, int] = {}
    for number, name in enumerate(header, 1):
        if name and name in seen:
            raise InputError(f"two columns are named {name!r}", where=f"columns {seen[name]} and {number}")
        seen[name] = number
    rows = _Rows(header, delimiter, before)
    for row in reader:
        if not row or (len(row) == 1 and not row[0].strip()):
            continue
        rows.add(row, before + reader.line_num)
    return rows.cells()


class _Rows:
    """The rows of a table, one after the other. One that is not as the header says is a gap, and is told."""

    def __init__(self, header: tuple[str, ...], delimiter: str, before: int) -> None:
        self.header, self.delimiter, self.before = header, delimiter, before
        self.texts: dict[int, list[str]] = {}
        self.block: list[list[float]] = []
        self.parts: list[NDArray[np.float64]] = []
        self.broken: list[tuple[int, InputError]] = []
        self.rows = self.first_line = 0
        self.decimal_comma = False

    def add(self, row: list[str], line: int) -> None:
        """A further row."""
        width = len(self.header)
        while len(row) > width and not row[-1].strip():
            row = row[:-1]
        if len(row) != width:
            return self._break(None, InputError(
                f"this row has {len(row)} cells where the header has {width}", where=f"line {line}",
                hint="The file may have been cut off; export it again"))  # fmt: skip
        if not self.first_line:
            self._begin(row, line)
        if self.decimal_comma:
            row = [c.replace(",", ".", 1) for c in row]
        numbers, wrong = _numbers(row, self.texts, self.header, line)
        if wrong is not None:
            return self._break((row, numbers), wrong)
        for i, column in self.texts.items():
            column.append(row[i].strip())
        self._keep(numbers)

    def _begin(self, row: list[str], line: int) -> None:
        """The first row that is as the header says shows which columns hold text, and how fractions are written."""
        self.first_line = line
        self.decimal_comma = self.delimiter != "," and any(_is_number(c.replace(",", ".", 1)) and "," in c for c in row)
        self.texts = {i: [""] * self.rows for i, c in enumerate(row) if _is_text(c, self.decimal_comma)}

    def _break(self, held: tuple[list[str], list[float]] | None, wrong: InputError) -> None:
        self.broken.append((self.rows, wrong))
        row, numbers = held or ([""] * len(self.header), [np.nan] * len(self.header))
        for i, column in self.texts.items():
            column.append(row[i].strip())
        self._keep(numbers)

    def _keep(self, numbers: list[float]) -> None:
        self.block.append(numbers)
        self.rows += 1
        if len(self.block) == 8192:
            self.parts.append(np.array(self.block, np.float64))
            self.block.clear()
            if self.rows > MAX_ROWS:
                raise LimitError(f"the table has more than {MAX_ROWS} rows", hint="Cut it into several recordings")

    def _words_in_the_first_row(self, numbers: NDArray[np.float64]) -> None:
        """A column of numbers but for its first cell was taken for text: that cell is wrong, and no other."""
        for i, column in list(self.texts.items()):
            later = [c for c in column[1:] if c]
            if len(later) < 2 or not all(map(_is_number, later[:LOOKED_AT])):
                continue
            del self.texts[i]
            for row, cell in enumerate(column):
                line = self.first_line + row
                numbers[row, i], wrong = _number(cell, self.header[i], line)
                if wrong is not None and not any(row == r for r, _ in self.broken):
                    self.broken.append((row, wrong))
        self.broken.sort(key=lambda b: b[0])

    def cells(self) -> Cells:
        """All of them; raises the first fault where more than a tenth of the rows have one."""
        if self.block:
            self.parts.append(np.array(self.block, np.float64))
        if not self.parts:
            raise InputError("the table has a header but no rows", where=f"line {self.before + 1}")
        numbers = np.concatenate(self.parts)
        self._words_in_the_first_row(numbers)
        if len(self.broken) > MAX_BROKEN * self.rows:
            raise self.broken[0][1]
        return Cells(self.header, numbers, self.texts, self.first_line, tuple(self.broken))


def _numbers(row: list[str], texts: dict[int, list[str]], header: tuple[str, ...], line: int
             ) -> tuple[list[float], InputError | None]:  # fmt: skip
    """(a number a column, NaN where there is none; the first cell that should be one and is not)."""
    try:
        quick = [np.nan if i in texts or not c else float(c) for i, c in enumerate(row)]
        if not any(map(isinf, quick)):
            return quick, None
    except ValueError:
        pass
    out, wrong = [], None
    for i, cell in enumerate(row):
        number, fault = (np.nan, None) if i in texts else _number(cell, header[i], line)
        out.append(number)
        wrong = wrong or fault
    return out, wrong


def _number(cell: str, column: str, line: int) -> tuple[float, InputError | None]:
    text = cell.strip().lower()
    if text in _BLANK:
        return np.nan, None
    try:
        number = float(cell)
    except ValueError:
        number, words = np.nan, "infinite value" if text in _INFINITE else f"{cell.strip()[:40]!r} is no number"
    else:
        if not isinf(number):
            return number, None
        words = "infinite value"
    return np.nan, InputError(words, where=f"line {line}, column {column!r}", hint="Mend or blank the cell")


def _is_number(text: str) -> bool:
    try:
        float(text)
    except ValueError:
        return False
    return bool(text.strip())


def _is_text(cell: str, decimal_comma: bool) -> bool:
    text = cell.replace(",", ".", 1) if decimal_comma else cell
    return not _is_number(text) and text.strip().lower() not in _BLANK | _INFINITE
