"""Long work on footage, cut into stretches that several workers share and that outlive a worker that is lost.

The worker that has the job claims one stretch after the other; so does any other worker that gets the job's id from the
queue while it runs. What is finished is in the store, so that work that is begun again goes on from there.
"""

import time
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
Made = dict[Span, tuple[int, str]]
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


def _holder(state: Made, span: Span) -> Span | None:
    """The finished stretch that has this one in it."""
    return next((s for s, (_, media) in state.items() if media and s[0] <= span[0] and s[1] >= span[1]), None)


def _state(work: Work, shared: Shared) -> Made:
    with work.store.unit() as unit:
        return unit.stretches.state(shared.footage, shared.what)


def _one(work: Work, job: str, shared: Shared, owner: str, make: Maker, on_frame: Callable[[int], None]) -> bool:
    """Does one stretch that nobody is at; False when there is none."""
    state = _state(work, shared)
    for span in shared.spans:
        if _holder(state, span):
            continue
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


def gather(work: Work, job: Job, shared: Shared, makers: Makers, progress: Progress) -> list[tuple[Span, Span, bytes]]:
    """All stretches in order, each as (span, span of what is stored, bytes); done here, by helpers, or before."""
    owner, began, total = str(uuid4()), time.monotonic(), shared.last - shared.first + 1
    before = _done(_state(work, shared), shared)

    def on_frame(frame: int) -> None:
        done = _done(_state(work, shared), shared)
        speed = (done - before) / max(time.monotonic() - began, 1e-3)
        left = f", {speed:.1f} frames/s, {(total - done) / speed:.0f} s left" if done > before else ""
        progress(done / total, f"frame {done} of {total}{left}")

    missing = [s for s in shared.spans if not _holder(_state(work, shared), s)]
    if missing:
        make = makers[shared.kind](work, shared)
        with work.store.unit() as unit:
            unit.jobs.change(job.id, result={"sharing": asdict(shared)})
        for _ in range(min(len(missing) - 1, MAX_HELPERS)):
            work.defer(job.id)
        try:
            while any(not _holder(_state(work, shared), s) for s in shared.spans):
                if not _one(work, job.id, shared, owner, make, on_frame):
                    on_frame(0)
                    time.sleep(0.3)  # the rest is with others
        finally:
            with work.store.unit() as unit:
                unit.stretches.leave(shared.footage, shared.what, owner)
                unit.jobs.change(job.id, result={})
    state = _state(work, shared)
    holders = [(s, _holder(state, s)) for s in shared.spans]
    return [(span, held, work.media.get(state[held][1])) for span, held in holders if held]


def _done(state: Made, shared: Shared) -> int:
    total = 0
    for span in shared.spans:
        size = span[1] - span[0] + 1
        total += size if _holder(state, span) else state.get(span, (0, ""))[0]
    return total
