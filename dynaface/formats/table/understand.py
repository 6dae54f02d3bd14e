"""Proposes a reading recipe for a table: time unit, percent, and which column is which channel."""

import re
from fractions import Fraction

import numpy as np

from dynaface.core.clock.rates import STANDARD_RATES, format_rate
from dynaface.core.clock.timecode import frames_field
from dynaface.core.shapes.spelling import match_name, words_of
from dynaface.core.shapes.standard import ANGLES, SHAPES
from dynaface.formats.table.cells import Cells
from dynaface.formats.table.recipe import Recipe, TimeUnit

_SECONDS = {"s", "sec", "secs", "second", "seconds"}
_MILLIS = {"ms", "msec", "millis", "millisecond", "milliseconds"}
_FRAMES = {"frame", "frames", "framenumber", "index"}
_COUNTED_AT = re.compile(r"@(\d+(?:\.\d+)?(?:/\d+)?)$")  # as our own tables say the rate of a count
_TIMECODE = {"timecode", "tc", "smpte", "ltc"}
LATE = 100_000  # frames: no take is so long, so that a count that begins later began at midnight
MOST_COUNT = 24 * 3600 * 240
CLOSE = 0.004  # share by which the rate of a count can be off
_TIME = {"time", "timestamp", "stamp", "t", "elapsed", "clock"}


def propose(cells: Cells) -> Recipe:
    """The best guess at how to read the cells; each part can be corrected."""
    timecode_column, timecode_rate = _timecode(cells)
    time_column, unit = _time(cells, skip=timecode_column)
    if not timecode_column:
        timecode_column = _count(cells)
        if timecode_column and timecode_column == time_column:
            time_column, unit = _time(cells, skip=timecode_column)
            if unit == "none":
                time_column, unit = timecode_column, "frames"
        timecode_rate = _count_rate(cells, timecode_column, time_column, unit)
    if unit == "none" and timecode_column:
        time_column, unit = timecode_column, "timecode"
    columns: dict[str, str] = {}
    taken: set[str] = set()
    for header in cells.header:
        if header in (time_column, timecode_column):
            continue
        channel = match_name(header)
        columns[header] = channel if channel and channel not in taken else ""
        taken.add(columns[header])
    index = {h: i for i, h in enumerate(cells.header)}
    shapes = [index[h] for h, c in columns.items() if c in SHAPES]
    angles = [index[h] for h, c in columns.items() if c in ANGLES]
    radians = any("rad" in words_of(h) or "radians" in words_of(h) for h, c in columns.items() if c in ANGLES)
    if angles and not radians and not any({"deg", "degrees"} & set(words_of(cells.header[i])) for i in angles):
        radians = _peak(cells, angles) <= np.pi / 2 and _peak(cells, angles) > 0
    return Recipe(
        time_column=time_column,
        time_unit=unit,
        timecode_column=timecode_column,
        timecode_rate=timecode_rate,
        percent=bool(shapes) and _peak(cells, shapes) > 2.0,
        radians=radians,
        columns=columns,
    )


def _peak(cells: Cells, columns: list[int]) -> float:
    values = np.abs(cells.numbers[:, columns])
    return float(np.nanmax(values)) if np.isfinite(values).any() else 0.0


def _timecode(cells: Cells) -> tuple[str, str]:
    for column, texts in cells.texts.items():
        fields = [frames_field(t) for t in texts[:600]]
        known = [f for f in fields if f is not None]
        if known and len(known) >= 0.8 * len(fields):
            highest = max(known)
            drop = any(";" in t for t in texts[:5])
            fitting = [r for r in STANDARD_RATES if round(float(r)) > highest and float(r) >= 23]
            rate = next((r for r in fitting if (r.denominator == 1001) == drop), Fraction(60))
            if not drop and highest < 24 and len(known) < 48:
                rate = Fraction(24)
            header = cells.header[column]
            said = _COUNTED_AT.search(header)
            return header, said[1] if said else format_rate(rate)
    return "", ""


def _count(cells: Cells) -> str:
    """The header of a column of whole numbers that count frames from midnight, "" without one: it is named so, or it counts frames and begins
    where no take does.
    """
    for column, header in enumerate(cells.header):
        words = words_of(header)
        named = bool(set(words) & _TIMECODE)
        counts = bool(set(words) & _FRAMES) or "".join(words) in _FRAMES
        if column in cells.texts or not (named or counts) or match_name(header):
            continue
        values = cells.numbers[:, column]
        values = values[np.isfinite(values)]
        if not values.size or (values % 1).any() or values.min() < (0 if named else LATE) or values.max() > MOST_COUNT:
            continue
        return header
    return ""


def _count_rate(cells: Cells, count: str, time: str, unit: TimeUnit) -> str:
    """The rate of such a count beside time stamps in seconds; "" where nothing says it: then it is asked for."""
    if not count or unit not in ("seconds", "milliseconds"):
        return ""
    index = {h: i for i, h in enumerate(cells.header)}
    counts, stamps = cells.numbers[:, index[count]], cells.numbers[:, index[time]]
    known = np.isfinite(counts) & np.isfinite(stamps)
    if known.sum() < 2:
        return ""
    apart = np.ptp(counts[known]), np.ptp(stamps[known]) / (1000 if unit == "milliseconds" else 1)
    found = apart[0] / apart[1] if apart[1] > 0 else 0.0
    best = min(STANDARD_RATES, key=lambda r: abs(float(r) - found) + (1e-3 if r.denominator != 1 else 0))
    return format_rate(best) if abs(float(best) - found) < CLOSE * found else ""


def _time(cells: Cells, skip: str) -> tuple[str, TimeUnit]:
    found: list[tuple[int, str, TimeUnit]] = []
    for column, header in enumerate(cells.header):
        if header == skip or column in cells.texts:
            continue
        words = words_of(header)
        bag = set(words)
        if not bag & (_TIME | _SECONDS | _MILLIS | _FRAMES):
            continue
        if match_name(header):
            continue
        if bag & _MILLIS:
            found.append((0, header, "milliseconds"))
        elif bag & _FRAMES or "".join(words) in _FRAMES:
            found.append((2, header, "frames"))
        elif bag & _SECONDS and not bag & _FRAMES:
            found.append((0, header, "seconds"))
        else:
            found.append((1, header, unit_by_values(cells.numbers[:, column])))
    if not found:
        return "", "none"
    _, header, unit = min(found, key=lambda f: f[0])
    return header, unit


def unit_by_values(values: np.ndarray) -> TimeUnit:
    """Seconds, milliseconds or frames, judged by the usual step of a column that is only named "time"."""
    steps = np.diff(values[np.isfinite(values)])
    steps = steps[steps > 0]
    if not steps.size:
        return "seconds"
    step = float(np.median(steps))
    if step >= 2.0:
        return "milliseconds"
    whole = np.allclose(values[np.isfinite(values)] % 1.0, 0)
    return "frames" if whole and step >= 1.0 else "seconds"
