"""Cells and a recipe to a Recording and its report."""

from dataclasses import dataclass, replace
from fractions import Fraction
from typing import Any

import numpy as np

from dynaface.core.clock.rates import format_rate, nominal_rate, parse_rate
from dynaface.core.clock.timecode import Timecode, from_seconds, labelled, noted, parse_timecode
from dynaface.core.curves.channels import Recording, Times
from dynaface.core.curves.timing import TimingReport, examine
from dynaface.core.errors import InputError
from dynaface.core.shapes.standard import ANGLES, SHAPES, unit_of
from dynaface.formats.table.cells import Cells
from dynaface.formats.table.recipe import Recipe

SAID = 5  # broken rows that a report names


@dataclass(frozen=True)
class TableReport:
    """What a table holds; `notes` are remarks in words."""

    timing: TimingReport
    recipe: Recipe
    matched: tuple[tuple[str, str], ...]
    unmatched: tuple[str, ...]
    missing: tuple[str, ...]
    blank_cells: int
    beyond: tuple[str, ...]
    notes: tuple[str, ...]
    timecode: Timecode | None

    def describe(self) -> dict[str, Any]:
        """As plain data for the API and --json."""
        t = self.timing
        return {
            "rows": t.rows, "span": t.span, "nominalRate": format_rate(t.nominal), "measuredRate": t.measured,
            "dropped": t.dropped, "doubled": t.doubled, "uneven": t.uneven, "longestGap": t.longest_gap,
            "faults": [{"row": r, "kind": k, "step": s} for r, k, s in t.faults],
            "matched": [{"column": h, "channel": c} for h, c in self.matched],
            "unmatched": list(self.unmatched), "missing": list(self.missing), "blankCells": self.blank_cells,
            "beyond": list(self.beyond), "notes": list(self.notes),
            **noted(self.timecode), "recipe": self.recipe.describe(),
        }  # fmt: skip


def to_recording(cells: Cells, recipe: Recipe) -> tuple[Recording, TableReport]:
    """Reads the cells by the recipe; a broken row is a gap. Raises InputError when the rate is not known or no column is a
    channel.
    """
    cells, notes = _without_lost(cells, recipe)
    index = {h: i for i, h in enumerate(cells.header)}
    pairs = [(h, c) for h, c in recipe.columns.items() if c and h in index]
    if not pairs:
        raise InputError("no column of this table names a face shape", where=f"line {cells.first_line - 1}",
                         hint="Choose the channels of its columns by hand")  # fmt: skip
    for header, _ in pairs:
        if index[header] in cells.texts:
            raise InputError(
                f"{cells.texts[index[header]][0][:40]!r} is no number",
                where=f"line {cells.first_line}, column {header!r}",
                hint="Mend or blank the cell",
            )
    times, timecode, nominal = _times(cells, recipe, index)
    if recipe.timecode_column and timecode is None:
        notes.append(
            f"column {recipe.timecode_column!r} counts frames from midnight; give the timecode rate and it is read as timecode"
        )
    order = slice(None)
    if (np.diff(times) < 0).any():
        backward = int((np.diff(times) < 0).sum())
        notes.append(f"{backward} time stamps go backward; the rows were put in order")
        order = np.argsort(times, kind="stable")  # type: ignore[assignment]
    times = times[order]
    values = cells.numbers[:, [index[h] for h, _ in pairs]][order].copy()
    angle = np.array([c in ANGLES for _, c in pairs])
    weight = np.array([not unit_of(c) for _, c in pairs])
    if recipe.percent:
        values[:, weight] /= 100.0
    if recipe.radians:
        values[:, angle] = np.degrees(values[:, angle])
    for column, (_, channel) in enumerate(pairs):
        if channel in recipe.flipped:
            values[:, column] *= -1
    with np.errstate(over="ignore"):
        values32 = values.astype(np.float32)
    if np.isinf(values32).any():
        row, column = np.argwhere(np.isinf(values32))[0]
        raise InputError(f"{values[row, column]:g} is too large", where=f"row {row + 1}, column {pairs[column][0]!r}")
    low, high = -0.01, 1.01
    with np.errstate(invalid="ignore"):
        outside = ((values32 < low) | (values32 > high)).any(axis=0) & weight
    recording = Recording(tuple(c for _, c in pairs), times, values32, nominal, timecode)
    channels = {c for _, c in pairs}
    report = TableReport(
        timing=examine(times, nominal),
        recipe=recipe,
        matched=tuple(pairs),
        unmatched=tuple(h for h, c in recipe.columns.items() if not c and h),
        missing=tuple(s for s in SHAPES if s not in channels),
        blank_cells=int(np.isnan(values32).sum()),
        beyond=tuple(c for (_, c), out in zip(pairs, outside, strict=True) if out),
        notes=tuple(notes),
        timecode=timecode,
    )
    return recording, report


def _without_lost(cells: Cells, recipe: Recipe) -> tuple[Cells, list[str]]:
    """(the cells without broken rows of which nobody can say when they were, remarks about all that are broken)."""
    if not cells.broken:
        return cells, []
    index = {h: i for i, h in enumerate(cells.header)}
    rows = np.array([row for row, _ in cells.broken])
    lost = np.zeros(len(rows), bool)
    if recipe.time_unit == "timecode" and index.get(recipe.timecode_column) in cells.texts:
        labels = cells.texts[index[recipe.timecode_column]]
        lost = np.array([not labels[row] for row in rows])
    elif recipe.time_unit not in ("none", "timecode") and recipe.time_column in index:
        lost = np.isnan(cells.numbers[rows, index[recipe.time_column]])
    gone = set(rows[lost].tolist())
    said = [f"{e.where}: {e.message}" for _, e in cells.broken[:SAID]]
    more = f", and {len(rows) - SAID} more" if len(rows) > SAID else ""
    words = "1 row is a gap" if len(rows) == 1 else f"{len(rows)} rows are gaps"
    notes = [f"{words}: {'; '.join(said)}{more}"]
    texts = {i: [t for row, t in enumerate(column) if row not in gone] for i, column in cells.texts.items()}
    return replace(cells, numbers=np.delete(cells.numbers, list(gone), axis=0), texts=texts), notes


def _times(cells: Cells, recipe: Recipe, index: dict[str, int]) -> tuple[Times, Timecode | None, Fraction]:
    rows = len(cells.numbers)
    asked = parse_rate(recipe.rate) if recipe.rate else None
    labels, timecode = _labels(cells, recipe, index)
    if recipe.time_unit == "none":
        if asked is None:
            raise InputError("the table has no time column and no rate is given", hint="Give the frame rate")
        times = np.arange(rows) / float(asked)
    elif recipe.time_unit == "timecode":
        if labels is None:
            raise InputError("the recipe takes time from timecode, but there is no timecode column")
        times = labels - labels[0]
    else:
        if recipe.time_column not in index:
            raise InputError(f"there is no time column {recipe.time_column!r}")
        column = cells.numbers[:, index[recipe.time_column]]
        missing = np.flatnonzero(~np.isfinite(column))
        if missing.size:
            raise InputError("the time stamp is blank or no number",
                             where=f"line {cells.first_line + int(missing[0])}, column {recipe.time_column!r}",
                             hint="Mend the cell or choose another time column")  # fmt: skip
        times = column.astype(np.float64)
        if recipe.time_unit == "milliseconds":
            times = times / 1000.0
        elif recipe.time_unit == "frames":
            if asked is None:
                asked = parse_rate(recipe.timecode_rate) if recipe.timecode_rate else None
            if asked is None:
                raise InputError("the table counts frames but says no rate", hint="Give the frame rate")
            times = (times - times[0]) / float(asked)
    if asked is None:
        asked = nominal_rate(times) if rows > 1 else Fraction(60)
    return times, timecode, asked


def _labels(cells: Cells, recipe: Recipe, index: dict[str, int]) -> tuple[Times | None, Timecode | None]:
    """Seconds of each timecode label, and the first one."""
    if not recipe.timecode_column:
        return None, None
    if recipe.timecode_column not in index:
        raise InputError(f"there is no timecode in column {recipe.timecode_column!r}")
    if index[recipe.timecode_column] not in cells.texts:
        return _counted(cells, recipe, cells.numbers[:, index[recipe.timecode_column]])
    rate = parse_rate(recipe.timecode_rate or "60")
    texts = cells.texts[index[recipe.timecode_column]]
    first: Timecode | None = None
    if recipe.time_unit != "timecode":
        return None, _parsed(texts[0], rate, cells.first_line, recipe.timecode_column)
    seconds = np.empty(len(texts))
    for row, text in enumerate(texts):
        label = _parsed(text, rate, cells.first_line + row, recipe.timecode_column)
        first = first or label
        seconds[row] = label.seconds
    return _past_midnight(seconds), first


def _counted(cells: Cells, recipe: Recipe, counts: np.ndarray) -> tuple[Times | None, Timecode | None]:
    """As `_labels`, of a column that counts frames from midnight; no timecode where nobody said at which rate."""
    bad = np.flatnonzero(~np.isfinite(counts) | (counts < 0) | (counts % 1 != 0))
    if bad.size:
        raise InputError(f"there is no timecode in column {recipe.timecode_column!r}",
                         where=f"line {cells.first_line + int(bad[0])}",
                         hint="It must hold labels, or whole numbers that count frames from midnight")  # fmt: skip
    said = recipe.timecode_rate or (recipe.rate if recipe.time_unit in ("frames", "timecode") else "")
    if not said:
        if recipe.time_unit == "timecode":
            raise InputError(
                f"column {recipe.timecode_column!r} counts frames but says no rate", hint="Give the timecode rate"
            )
        return None, None
    rate = parse_rate(said)
    seconds = _past_midnight(counts / float(rate)) if recipe.time_unit == "timecode" else None
    return seconds, Timecode(int(counts[0]), rate)


def _past_midnight(seconds: Times) -> Times:
    """Seconds of a count that goes on after midnight where it began anew."""
    out = seconds.copy()
    for at in np.flatnonzero(np.diff(seconds) < -43200):
        out[at + 1 :] += 86400
    return out


def _parsed(text: str, rate: Fraction, line: int, column: str) -> Timecode:
    try:
        return parse_timecode(text, rate)
    except InputError as error:
        raise InputError(error.message, where=f"line {line}, column {column!r}",
                         hint="Choose another timecode rate or mend the cell") from None  # fmt: skip


def timecode_at(timecode: Timecode | None, frame: int, rate: Fraction) -> str:
    """The label of a frame of channels whose frame 0 has this timecode, with its remainder where there is one, or ""."""
    if timecode is None:
        return ""
    return labelled(from_seconds(timecode.seconds + frame / float(rate), timecode.rate, timecode.drop))
