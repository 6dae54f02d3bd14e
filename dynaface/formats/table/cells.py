"""Text to a header and a block of numbers, in one pass and bounded memory."""

import csv
import io
import re
from dataclasses import dataclass
from math import isinf
from typing import Any

import numpy as np
from numpy.typing import NDArray

from dynaface.core.errors import InputError, LimitError
from dynaface.formats.table.json_lines import DELIMITER, as_delimited, is_json_line

MAX_BYTES = 200_000_000
MAX_COLUMNS = 512
MAX_ROWS = 1_000_000
CHUNK, FEW = (
    1024,
    8,
)  # rows that are parsed at a time; that are looked at one by one where they are not as they should be
LOOKED_AT = 20  # cells that show whether a column holds text
MAX_BLANK = 10_000  # lines before the header and blank ones
MAX_BROKEN = 0.1  # share of rows that may be gaps
_BLANK = frozenset(("", "nan", "na", "n/a", "null", "none", "-", "nan(ind)", "-nan", "-nan(ind)"))
_OTHER = re.compile(r"[^0-9eE+\-., \n]")  # what no block of numbers holds
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
    body = text[start:] if start else text
    if is_json_line(line):
        # The header that is put before them is no line of the file.
        body, line, lines_before = as_delimited(body), DELIMITER, lines_before - 1
    delimiter = delimiter_of(line)
    reader = csv.reader(io.StringIO(body, newline=""), delimiter=delimiter)
    try:
        rows = _Rows(_header(next(reader), lines_before), delimiter, lines_before)
        lines = body.replace("\r\n", "\n")
        if '"' in body or "\r" in lines:
            rows.add_all(reader, lines_before)
        else:
            del reader
            _in_chunks(rows, lines.split("\n"), lines_before)
        return rows.cells()
    except csv.Error as error:
        raise InputError(f"the table breaks off: {error}", where=f"after line {lines_before + 1}") from None


def _in_chunks(rows: "_Rows", lines: list[str], before: int) -> None:
    """Adds the lines after the header, many at a time."""
    at = 1
    while at < len(lines):
        chunk = lines[at : at + (CHUNK if rows.first_line else 1)]
        _add_chunk(rows, chunk, before + at)
        at += len(chunk)


def _add_chunk(rows: "_Rows", lines: list[str], before: int) -> None:
    """Halved as long as it has a fault or a blank line, so that few rows are looked at by themselves."""
    if rows.add_block(lines):
        return
    if len(lines) <= FEW:
        return rows.add_all(csv.reader(lines, delimiter=rows.delimiter), before)
    half = len(lines) // 2
    _add_chunk(rows, lines[:half], before)
    _add_chunk(rows, lines[half:], before + half)


def _header(row: list[str], before: int) -> tuple[str, ...]:
    header = tuple(h.strip().strip('"') for h in row)
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
    return header


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

    def add_all(self, reader: Any, before: int) -> None:
        """Further rows of a reader that begins after `before` lines; blank lines are no rows."""
        for row in reader:
            if row and (len(row) > 1 or row[0].strip()):
                self.add(row, before + reader.line_num)

    def add_block(self, lines: list[str]) -> bool:
        """Further rows at once; False, and nothing is added, where one of them has to be looked at by itself."""
        width, delimiter = len(self.header), self.delimiter
        if not self.first_line or len(self.texts) == width:
            return False
        if any(line.count(delimiter) != width - 1 for line in lines):
            return False
        if self.decimal_comma:
            lines = [line.replace(",", ".") for line in lines]
        kept = [i for i in range(width) if i not in self.texts]
        cut = max(self.texts, default=-1) + 1  # columns that have to be looked at one by one
        cells = [line.split(delimiter, cut) for line in lines] if cut else [[line] for line in lines]
        numbers = _block([delimiter.join([c[i] for i in kept if i < cut] + c[cut:]) for c in cells], delimiter)
        if numbers is None or numbers.shape != (len(lines), len(kept)):
            return False
        block = np.full((len(lines), width), np.nan)
        block[:, kept] = numbers
        for i, column in self.texts.items():
            column.extend(c[i].strip() for c in cells)
        self._close()
        self.parts.append(block)
        self._count(len(lines))
        return True

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
        self._count(1)
        if len(self.block) == CHUNK:
            self._close()

    def _count(self, rows: int) -> None:
        self.rows += rows
        if self.rows > MAX_ROWS:
            raise LimitError(f"the table has more than {MAX_ROWS} rows", hint="Cut it into several recordings")

    def _close(self) -> None:
        """The rows that came one by one become a block."""
        if self.block:
            self.parts.append(np.array(self.block, np.float64))
            self.block.clear()

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
        self._close()
        if not self.parts:
            raise InputError("the table has a header but no rows", where=f"line {self.before + 1}")
        numbers = np.concatenate(self.parts)
        self._words_in_the_first_row(numbers)
        if len(self.broken) > MAX_BROKEN * self.rows:
            raise self.broken[0][1]
        return Cells(self.header, numbers, self.texts, self.first_line, tuple(self.broken))


def _block(lines: list[str], delimiter: str) -> NDArray[np.float64] | None:
    """(rows, columns) of lines of numbers, blank cells NaN; None where there is anything else."""
    text = "\n".join(lines).replace(delimiter, ",")
    if _OTHER.search(text):
        return None
    text = f"\n{text}\n"
    for blank, filled in ((",,", ",nan,"), (",,", ",nan,"), ("\n,", "\nnan,"), (",\n", ",nan\n")):
        text = text.replace(blank, filled)
    try:
        block = np.loadtxt(text[1:-1].split("\n"), delimiter=",", comments=None, ndmin=2)
    except ValueError:
        return None
    return None if np.isinf(block).any() else block


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
