"""Runs one job: state, progress, cancel, and an error that people can read."""

import logging
import threading
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from typing import Any

from sqlalchemy.exc import SQLAlchemyError

from dynaface.core.errors import CancelledError, DynafaceError
from dynaface.core.records.records import Job
from dynaface.jobs.queue import SILENT, TASK
from dynaface.pipelines.progress import Progress
from dynaface.services.footage.measure_footage import MAKERS
from dynaface.services.footage.performer_cards import make_performer_card
from dynaface.services.footage.prepare_footage import prepare_footage
from dynaface.services.footage.propose_samples import propose_samples
from dynaface.services.footage.share_work import help_with
from dynaface.services.footage.solve_dot_take import find_dot_samples, solve_dot_take
from dynaface.services.footage.solve_take import solve_take
from dynaface.services.handover.request_handover import make_handovers
from dynaface.services.lineup.place_recordings import place_recordings
from dynaface.services.lineup.take_drift_out import take_drift_out
from dynaface.services.markers.solve_marker_take import find_samples, solve_marker_take
from dynaface.services.returns.bring_back import make_returns
from dynaface.services.speech.find_words import make_words
from dynaface.services.speech.give_face import make_face
from dynaface.services.work import Work

log = logging.getLogger("dynaface.jobs")
HANDLERS: dict[str, Callable[[Work, Job, Progress], dict[str, Any]]] = {
    "handover": make_handovers,
    "footage": prepare_footage,
    "card": make_performer_card,
    "solve": solve_take,
    "proposal": propose_samples,
    "markers": solve_marker_take,
    "marker samples": find_samples,
    "dots": solve_dot_take,
    "dot samples": find_dot_samples,
    "words": make_words,
    "face": make_face,
    "line-up": place_recordings,
    "drift": take_drift_out,
    "return": make_returns,
}


BEAT, LOST, TRIES = 2.0, 12.0, 5  # seconds between signs of life, seconds without one, and how often a job is begun
YOUNG = 5.0  # seconds that a job may be on its way into the queue


@contextmanager
def _alive(work: Work, identity: str, attempt: int) -> Iterator[None]:
    """Says every few seconds that the job's worker is there; while the database is away, it tries on."""
    ended = threading.Event()

    def beat() -> None:
        while not ended.wait(BEAT):
            try:
                with work.store.unit() as unit:
                    unit.jobs.beat(identity, attempt)
            except SQLAlchemyError:
                log.warning("job %s could not say that it is alive; the database is not reached", identity)

    thread = threading.Thread(target=beat, daemon=True)
    thread.start()
    try:
        yield
    finally:
        ended.set()
        thread.join()


def recover_jobs(work: Work) -> list[str]:
    """Queues again what lost its worker, and what the queue has lost; gives the ids."""
    with work.store.unit() as unit:
        lost = unit.jobs.recover(LOST, TRIES)
    for job in lost:
        work.defer(job)
    with work.store.unit() as unit:
        gone = [job for job in unit.jobs.without_entry(TASK, YOUNG, SILENT) if job not in lost]
    for job in gone:
        work.defer(job)
    return lost + gone


def run_job(work: Work, identity: str) -> None:
    """Runs the job of this id, on behalf of who asked for it; one that runs already is helped with."""
    with work.store.unit() as unit:
        job = unit.jobs.get(identity)
        if job is None:
            return
        attempt = unit.jobs.begin(identity)
    if attempt is None:
        if job.state == "running":
            help_with(work.by(job.person), job, MAKERS)
        return

    def progress(part: float, message: str) -> None:
        with work.store.unit() as unit:
            now = unit.jobs.get(identity)
            if now is None or now.cancelling or not unit.jobs.hold(identity, attempt):
                raise CancelledError("cancelled on request")
            unit.jobs.change(identity, progress=part, message=message)

    try:
        with _alive(work, identity, attempt):
            result = HANDLERS[job.kind](work.by(job.person).on(identity, attempt), job, progress)
        values: dict[str, Any] = {"state": "done", "progress": 1.0, "message": "", "result": result}
    except CancelledError as error:
        values = {"state": "cancelled", "message": str(error)}
    except SQLAlchemyError:
        # The database went away beneath the work: the job is taken up again once its silence is noticed.
        log.warning("job %s lost the database; it is taken up again", identity)
        return
    except DynafaceError as error:
        values = {"state": "failed", "message": str(error)}
    except Exception as error:
        log.exception("job %s failed", identity)
        values = {"state": "failed", "message": f"an error of ours: {type(error).__name__}. The log says more"}
    with work.store.unit() as unit:
        if not unit.jobs.finish(identity, attempt, **values):
            log.warning("job %s went over to another worker; what this one made of it is left out", identity)
