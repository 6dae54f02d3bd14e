"""The stretches of footage that are measured: its landmarks, and what a performer card says of it."""

import io
from collections.abc import Callable, Iterator
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from dynaface.core.records.records import Job, Source
from dynaface.core.solve.measured import Measured, joined
from dynaface.core.track.footage import Footage
from dynaface.formats.card_file import read_card
from dynaface.formats.head_file import general_head
from dynaface.formats.measured_file import read_measured, write_measured
from dynaface.pipelines.progress import Progress
from dynaface.pipelines.solve_footage import find_landmarks, measure_footage
from dynaface.services.footage.seen_landmarks import SeenLandmarks, is_looked_through, keep_landmarks, packed
from dynaface.services.footage.share_work import Maker, Makers, Part, Shared, Span, gather
from dynaface.services.load_source import load_footage
from dynaface.services.work import Work, source_for

METHOD = 9  # rises when what is measured changes, so that nothing older is joined to it


def landmarks_of(work: Work, job: Job, source: Source, footage: Footage, progress: Progress) -> SeenLandmarks:
    """Landmarks of each picture, found now or kept from before."""
    if not is_looked_through(work, source):
        shared = Shared(source.id, "landmarks", str(METHOD), 0, footage.frames - 1)
        parts = gather(work, job, shared, MAKERS, progress)
        keep_landmarks(work, source.id, _rows(work, parts))
        with work.store.unit() as unit:
            unit.stretches.forget(shared.footage, shared.what)
    return SeenLandmarks(work, source)


def _rows(work: Work, parts: list[Part]) -> Iterator[NDArray[np.float32]]:
    for part in parts:
        yield np.load(io.BytesIO(work.media.get(part.media)), allow_pickle=False)


@dataclass(frozen=True)
class MeasuredParts:
    """Measured frames of a span of footage, read from the store as far as they are asked for."""

    work: Work
    parts: list[Part]

    @property
    def frames(self) -> int:
        """Number of frames."""
        return self.parts[-1].span[1] - self.parts[0].span[0] + 1

    def cut(self, first: int, last: int) -> Measured:
        """Frames first to last of them, both included, counted from the span's first."""
        begins = self.parts[0].span[0]
        first, last = first + begins, last + begins
        wanted = [p for p in self.parts if p.span[0] <= last and p.span[1] >= first]
        return joined([self._read(p, max(first, p.span[0]), min(last, p.span[1])) for p in wanted])

    def _read(self, part: Part, first: int, last: int) -> Measured:
        return read_measured(self.work.media.get(part.media)).cut(first - part.held[0], last - part.held[0])


def measured_by(work: Work, job: Job, source: Source, card: str, span: Span, progress: Progress) -> MeasuredParts:
    """Frames of a span measured by a card (its medium), now or before."""
    shared = Shared(source.id, "measure", f"{card}:{METHOD}", *span)
    return MeasuredParts(work, gather(work, job, shared, MAKERS, progress))


def _footage(work: Work, shared: Shared) -> tuple[Source, Footage]:
    with work.store.unit() as unit:
        source = source_for(work, unit, shared.footage)
    return source, load_footage(work, source)


def _landmark_maker(work: Work, shared: Shared) -> Maker:
    _, footage = _footage(work, shared)

    def make(span: Span, on_frame: Callable[[int], None]) -> bytes:
        out = io.BytesIO()
        np.save(out, packed(find_landmarks(footage, *span, on_frame)))
        return out.getvalue()

    return make


def _measure_maker(work: Work, shared: Shared) -> Maker:
    source, footage = _footage(work, shared)
    card = read_card(work.media.get(shared.by.split(":")[0]), general_head())
    found = SeenLandmarks(work, source)
    return lambda span, on_frame: write_measured(measure_footage(footage, found, card, *span, on_frame))


MAKERS: Makers = {"landmarks": _landmark_maker, "measure": _measure_maker}
