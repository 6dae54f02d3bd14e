"""Notes sheets: a table that says which takes are circled, why, and at which count each began. A row a take, found by its slate."""

import csv
import io
from dataclasses import dataclass
from typing import Any

from dynaface.core.clock.rates import format_rate, parse_rate
from dynaface.core.clock.timecode import frames_field
from dynaface.core.errors import InputError, LimitError
from dynaface.formats.format import Format
from dynaface.formats.table.notes_header import CIRCLED, NOTES, RATE, SLATE, START, notes_header

YES = ("yes", "y", "true", "1", "x", "o", "circled", "keep", "keeper", "good", "*", "ok")
NO = ("no", "n", "false", "0", "", "-", "ng", "bad")
MAX_ROWS, MAX_TEXT = 20_000, 2000


@dataclass(frozen=True)
class Note:
    """What a sheet says of a slate: circled is None where it does not say; start: a timecode, and its rate, "" where it does not say."""

    slate: str
    circled: bool | None
    notes: str
    start: str = ""
    rate: str = ""


def slate_key(slate: str) -> str:
    """What of a slate tells takes apart: letters and digits, whatever their case."""
    return "".join(ch for ch in slate.casefold() if ch.isalnum())


def detect(head: bytes) -> bool:
    """Text whose first line is the header of a notes sheet."""
    if b"\x00" in head:
        return False
    lines = [ln for ln in head.decode("utf-8-sig", "ignore").splitlines() if ln.strip()]
    return bool(lines) and notes_header(lines[0])


def read(data: bytes) -> tuple[Note, ...]:
    """All rows; raises InputError with the line."""
    if not detect(data[:65536]):
        raise InputError(
            "this is no notes sheet", where="line 1", hint="It needs a column slate, and circled, notes or start"
        )
    try:
        text = data.decode("utf-8-sig")
    except UnicodeDecodeError as error:
        raise InputError(
            "the notes sheet is no UTF-8 text", where=f"byte {error.start}", hint="Save it as UTF-8"
        ) from None
    first = text.splitlines()[0]
    rows = csv.reader(io.StringIO(text), delimiter=max("\t;,", key=first.count))
    header = [c.strip().casefold() for c in next(rows)]
    at = {word: next((i for i, c in enumerate(header) if c in names), -1)
          for word, names in (("slate", SLATE), ("circled", CIRCLED), ("notes", NOTES), ("start", START), ("rate", RATE))}  # fmt: skip
    out: list[Note] = []
    try:
        for row in rows:
            if len(out) >= MAX_ROWS:
                raise LimitError(f"the notes sheet has more than {MAX_ROWS} rows", hint="Cut it into several")
            if note := _note(row, at, rows.line_num):
                out.append(note)
    except csv.Error as error:
        raise InputError(f"the notes sheet cannot be read: {error}", where=f"line {rows.line_num}") from None
    return tuple(out)


def _note(row: list[str], at: dict[str, int], line: int) -> Note | None:
    def cell(word: str) -> str:
        return row[at[word]].strip() if 0 <= at[word] < len(row) else ""

    slate, said = cell("slate"), cell("circled").casefold()
    if not slate:
        return None
    if said not in YES and said not in NO:
        raise InputError(f"circled is {said[:40]!r}", where=f"line {line}", hint="Write yes or no, or leave it empty")
    circled = None if at["circled"] < 0 else said in YES
    start, rate = cell("start"), cell("rate")
    if start and frames_field(start) is None:
        raise InputError(
            f"the start is {start[:40]!r}", where=f"line {line}", hint="Write it as hh:mm:ss:ff, or leave it empty"
        )
    if rate:
        try:
            rate = format_rate(parse_rate(rate))
        except InputError as error:
            raise InputError(error.message, where=f"line {line}") from None
    return Note(slate[:200], circled, cell("notes")[:MAX_TEXT], start[:20], rate)


def write(notes: tuple[Note, ...]) -> bytes:
    """A sheet that is read as the same."""
    out = io.StringIO()
    made = csv.writer(out, lineterminator="\n")
    made.writerow(["slate", "circled", "notes", "start", "rate"])
    for note in notes:
        circled = {True: "yes", False: "no", None: ""}[note.circled]
        made.writerow([note.slate, circled, note.notes, note.start, note.rate])
    return out.getvalue().encode()


def _check(notes: tuple[Note, ...]) -> dict[str, Any]:
    return {"rows": len(notes), "circled": sum(n.circled is True for n in notes), "slates": [n.slate for n in notes[:200]],
            "notes": []}  # fmt: skip


FORMAT = Format(
    "notes sheet", "notes sheet (.csv)", "notes", (".csv", ".tsv", ".txt"), detect, read, write, _check, 5_000_000
)
