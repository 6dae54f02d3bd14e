"""Long work on footage, cut into stretches that several workers share and that outlive a worker that is lost.

The worker that has the job claims one stretch after the other; so does any other worker that gets the job's id from the
queue while it runs. What is finished is in the store, so that work that is begun again goes on from there.
"""

import time
from collections import defaultdict
from collections.abc import Callable, Mapping
from dataclasses import asdict, dataclass
from uuid import uuid4

from dynaface.core.errors import CancelledError
from dynaface.core.records.records import Job
from dynaface.pipelines.progress import Progress
from dynaface.services.work import Work

CELL = 160  # frames; stretches begin at multiples of it, so that another in point finds most of them done
EVERY = 10  # frames between words about progress
STALE = 30.0  # seconds after which a silent worker counts as lost
MAX_HELPERS = 7
Span = tuple[int, int]
# (span, on_frame) -> bytes of the result; on_frame is called with each frame's number and may raise to stop.
Maker = Callable[[Span, Callable[[int], None]], bytes]


@dataclass(frozen=True)
class Shared:
    """kind: what is measured of the footage, by name; by: medium of what else it depends on, or ""; first, last: frames."""

    footage: str
    kind: str
    by: str
    first: int
    last: int

    @property
    def what(self) -> str:
        """Names what is measured with all it depends on."""
        return f"{self.kind}:{self.by}"

    @property
    def spans(self) -> list[Span]:
        """The stretches."""
        edges = range(self.first // CELL * CELL, self.last + 1, CELL)
        return [(max(e, self.first), min(e + CELL - 1, self.last)) for e in edges]


Makers = Mapping[str, Callable[[Work, Shared], Maker]]


@dataclass(frozen=True)
class Part:
    """A stretch that is done: its span, and the span and medium of the result that holds it."""

    span: Span
    held: Span
    media: str


class _State:
    """How far the stretches are; looked up by the cell they begin in, as a long clip has thousands."""

    def __init__(self, work: Work, shared: Shared) -> None:
        with work.store.unit() as unit:
            self._made = unit.stretches.state(shared.footage, shared.what)
        self._cells: dict[int, list[Span]] = defaultdict(list)
        for span, (_, media) in self._made.items():
            if media:
                self._cells[span[0] // CELL].append(span)

    def holder(self, span: Span) -> Part | None:
        """The finished stretch that has this one in it."""
        for held in self._cells[span[0] // CELL]:
            if held[0] <= span[0] and held[1] >= span[1]:
                return Part(span, held, self._made[held][1])
        return None

    def reached(self, span: Span) -> int:
        """Frames of a stretch that are done."""
        return span[1] - span[0] + 1 if self.holder(span) else self._made.get(span, (0, ""))[0]


def _one(work: Work, job: str, shared: Shared, owner: str, make: Maker, on_frame: Callable[[int], None]) -> bool:
    """Does one stretch that nobody is at; False when there is none."""
    for span in _missing(work, shared):
        with work.store.unit() as unit:
            mine = unit.stretches.claim(shared.footage, shared.what, span, owner, STALE)
        if not mine:
            continue

        def beat(frame: int, span: Span = span) -> None:
            if (frame - span[0]) % EVERY == 0:
                with work.store.unit() as unit:
                    now = unit.jobs.get(job)
                    if now is None or now.cancelling or now.state != "running":
                        raise CancelledError("cancelled on request")
                    unit.stretches.advance(shared.footage, shared.what, span, owner, frame - span[0])
                on_frame(frame)

        media, _ = work.media.put_bytes(make(span, beat))
        with work.store.unit() as unit:
            unit.stretches.advance(shared.footage, shared.what, span, owner, span[1] - span[0] + 1, media)
        return True
    return False


def help_with(work: Work, job: Job, makers: Makers) -> None:
    """What a second worker does for a job that runs: stretches, until there is none left."""
    sharing = job.result.get("sharing")
    if not sharing:
        return
    shared, owner = Shared(**sharing), str(uuid4())
    make = makers[shared.kind](work, shared)
    try:
        while _one(work, job.id, shared, owner, make, lambda frame: None):
            pass
    except CancelledError:
        return
    finally:
        with work.store.unit() as unit:
            unit.stretches.leave(shared.footage, shared.what, owner)


def gather(work: Work, job: Job, shared: Shared, makers: Makers, progress: Progress) -> list[Part]:
    """All stretches in order; done here, by helpers, or before."""
    owner, began, total = str(uuid4()), time.monotonic(), shared.last - shared.first + 1
    before = _done(work, shared)

    def on_frame(frame: int) -> None:
        done = _done(work, shared)
        speed = (done - before) / max(time.monotonic() - began, 1e-3)
        left = f", {speed:.1f} frames/s, {(total - done) / speed:.0f} s left" if done > before else ""
        progress(done / total, f"frame {done} of {total}{left}")

    if missing := _missing(work, shared):
        make = makers[shared.kind](work, shared)
        with work.store.unit() as unit:
            unit.jobs.change(job.id, result={"sharing": asdict(shared)})
        for _ in range(min(len(missing) - 1, MAX_HELPERS)):
            work.defer(job.id)
        try:
            while _missing(work, shared):
                if not _one(work, job.id, shared, owner, make, on_frame):
                    on_frame(0)
                    time.sleep(0.3)  # the rest is with others
        finally:
            with work.store.unit() as unit:
                unit.stretches.leave(shared.footage, shared.what, owner)
                unit.jobs.change(job.id, result={})
    state = _State(work, shared)
    return [part for part in map(state.holder, shared.spans) if part]


def _missing(work: Work, shared: Shared) -> list[Span]:
    state = _State(work, shared)
    return [s for s in shared.spans if not state.holder(s)]


def _done(work: Work, shared: Shared) -> int:
    state = _State(work, shared)
    return sum(map(state.reached, shared.spans))
