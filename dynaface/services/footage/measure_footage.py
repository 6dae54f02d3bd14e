"""The stretches of footage that are measured: its landmarks, and what a performer card says of it."""

import io
from collections.abc import Callable
from typing import Any

import numpy as np
from numpy.typing import NDArray

from dynaface.core.records.records import Job, Source
from dynaface.core.solve.measured import Measured, joined
from dynaface.core.track.footage import Footage
from dynaface.core.track.landmarks import POINTS, Landmarks
from dynaface.formats.card_file import read_card
from dynaface.formats.head_file import general_head
from dynaface.formats.measured_file import read_measured, write_measured
from dynaface.pipelines.progress import Progress
from dynaface.pipelines.solve_footage import Found, find_landmarks, measure_footage
from dynaface.services.footage.share_work import Maker, Makers, Shared, Span, gather
from dynaface.services.load_source import load_footage
from dynaface.services.work import Work, source_for

PART = "landmarks:f4"
METHOD = 7  # rises when what is measured changes, so that nothing older is joined to it


def landmarks_of(work: Work, job: Job, source: Source, footage: Footage, progress: Progress) -> Found:
    """Landmarks of each picture, found now or kept from before."""
    with work.store.unit() as unit:
        kept = unit.sources.read_block(source.id, PART)
    if kept is None or not len(kept):
        shared = Shared(source.id, "landmarks", str(METHOD), 0, footage.frames - 1)
        parts = gather(work, job, shared, MAKERS, progress)
        kept = np.concatenate([np.load(io.BytesIO(data), allow_pickle=False) for _, _, data in parts])
        with work.store.unit() as unit:
            unit.sources.drop_block(source.id, PART)
            unit.sources.write_block(source.id, PART, kept)
            unit.stretches.forget(shared.footage, shared.what)
    return [unpacked(row) for row in kept]


def measured_by(work: Work, job: Job, source: Source, card: str, span: Span, progress: Progress) -> Measured:
    """Frames of a span measured by a card (its medium), now or before."""
    shared = Shared(source.id, "measure", f"{card}:{METHOD}", *span)
    parts = gather(work, job, shared, MAKERS, progress)
    return joined([read_measured(data).cut(s[0] - held[0], s[1] - held[0]) for s, held, data in parts])


def _footage(work: Work, shared: Shared) -> Footage:
    with work.store.unit() as unit:
        return load_footage(work, source_for(work, unit, shared.footage))


def _landmark_maker(work: Work, shared: Shared) -> Maker:
    footage = _footage(work, shared)

    def make(span: Span, on_frame: Callable[[int], None]) -> bytes:
        out = io.BytesIO()
        np.save(out, np.array([packed(m) for m in find_landmarks(footage, *span, on_frame)], np.float32))
        return out.getvalue()

    return make


def _measure_maker(work: Work, shared: Shared) -> Maker:
    footage = _footage(work, shared)
    card = read_card(work.media.get(shared.by.split(":")[0]), general_head())
    with work.store.unit() as unit:
        rows: Any = unit.sources.read_block(shared.footage, PART)
    found = [unpacked(row) for row in rows]
    return lambda span, on_frame: write_measured(measure_footage(footage, found, card, *span, on_frame))


MAKERS: Makers = {"landmarks": _landmark_maker, "measure": _measure_maker}


def packed(found: Landmarks | None) -> NDArray[np.float32]:
    """(1008,) pixels of the points, then the scores; NaN where no face was seen."""
    if found is None:
        return np.full(2 * POINTS + 52, np.nan, np.float32)
    return np.concatenate([found.points.ravel(), found.scores]).astype(np.float32)


def unpacked(row: NDArray[np.float32]) -> Landmarks | None:
    """The other way."""
    if np.isnan(row[0]):
        return None
    return Landmarks(row[: 2 * POINTS].reshape(POINTS, 2), row[2 * POINTS :])
