"""The landmarks of footage as they are kept: found once, read by window, so that a long clip's are never in memory as a whole."""

from collections.abc import Iterable, Iterator, Sequence
from functools import lru_cache
from typing import overload

import numpy as np
from numpy.typing import NDArray

from dynaface.core.errors import InputError
from dynaface.core.records.records import Source
from dynaface.core.track.landmarks import POINTS, Landmarks
from dynaface.services.work import Work, source_for

PART = "landmarks:f4"
COLUMNS = 2 * POINTS + 52
WINDOW, KEPT = 1024, 3  # frames that are read at a time, and windows that are held
MOST_POINTS = 4096  # frames of which the page is given the landmarks at once


class SeenLandmarks(Sequence[Landmarks | None]):
    """Landmarks of each picture of footage that was looked through, None where no face was seen."""

    def __init__(self, work: Work, source: Source) -> None:
        self._source = source
        self._window = lru_cache(KEPT)(lambda which: _read(work, source.id, which * WINDOW, (which + 1) * WINDOW - 1))

    def __len__(self) -> int:
        return int(self._source.info["frames"])

    @overload
    def __getitem__(self, at: int) -> Landmarks | None: ...
    @overload
    def __getitem__(self, at: slice) -> list[Landmarks | None]: ...
    def __getitem__(self, at: int | slice) -> Landmarks | list[Landmarks | None] | None:
        if isinstance(at, slice):
            return [self[n] for n in range(*at.indices(len(self)))]
        number = at + len(self) if at < 0 else at
        if not 0 <= number < len(self):
            raise IndexError(f"frame {at} of a clip of {len(self)}")
        rows = self._window(number // WINDOW)
        return unpacked(rows[number % WINDOW].copy()) if number % WINDOW < len(rows) else None


def _read(work: Work, source: str, first: int, last: int) -> NDArray[np.float32]:
    with work.store.unit() as unit:
        rows = unit.sources.read_block(source, PART, first, last)
    return np.zeros((0, COLUMNS), np.float32) if rows is None else rows


def is_looked_through(work: Work, source: Source) -> bool:
    """Whether the landmarks of footage are known."""
    with work.store.unit() as unit:
        return unit.sources.has_rows(source.id, PART)


def seen_landmarks(work: Work, source: Source) -> SeenLandmarks:
    """Raises InputError for footage that was not looked through yet."""
    if not is_looked_through(work, source):
        raise InputError("this footage has not been looked through yet", hint="Wait for its job to end")
    return SeenLandmarks(work, source)


def keep_landmarks(work: Work, source: str, pieces: Iterator[NDArray[np.float32]]) -> None:
    """Stores packed landmarks of all pictures, which come in pieces (frames, COLUMNS), in place of those that were there."""
    with work.store.unit() as unit:
        unit.sources.drop_block(source, PART)
        unit.sources.write_rows(source, PART, pieces)


def fetch_points(work: Work, source: str, first: int, last: int) -> NDArray[np.float32]:
    """(frames, 478, 2) pixels of the landmarks of frames first..last of footage, as far as it has them, NaN where no face was seen;
    of MOST_POINTS frames at most.
    """
    if not 0 <= first <= last:
        raise InputError(f"frames {first}..{last} are asked for; the first must not come after the last")
    with work.store.unit() as unit:
        asked = source_for(work, unit, source)
    seen_landmarks(work, asked)
    rows = _read(work, source, first, min(last, first + MOST_POINTS - 1))
    return rows[:, : 2 * POINTS].reshape(len(rows), POINTS, 2)


def packed(found: Iterable[Landmarks | None]) -> NDArray[np.float32]:
    """(frames, COLUMNS) pixels of the points, then the scores; NaN where no face was seen."""
    lost = np.full(COLUMNS, np.nan, np.float32)
    rows = [lost if m is None else np.concatenate([m.points.ravel(), m.scores]).astype(np.float32) for m in found]
    return np.array(rows, np.float32).reshape(-1, COLUMNS)


def unpacked(row: NDArray[np.float32]) -> Landmarks | None:
    """The landmarks of one packed row."""
    if np.isnan(row[0]):
        return None
    return Landmarks(row[: 2 * POINTS].reshape(POINTS, 2), row[2 * POINTS :])
