"""Runs one job: state, progress, cancel, and an error that people can read."""

import logging
from collections.abc import Callable
from typing import Any

from dynaface.core.errors import CancelledError, DynafaceError
from dynaface.core.records.records import Job
from dynaface.services.bake_handover import Progress
from dynaface.services.deliver_take import make_handover
from dynaface.services.performer_cards import make_performer_card
from dynaface.services.prepare_footage import prepare_footage
from dynaface.services.solve_take import solve_take
from dynaface.services.work import Work

log = logging.getLogger("dynaface.jobs")
HANDLERS: dict[str, Callable[[Work, Job, Progress], dict[str, Any]]] = {
    "handover": make_handover,
    "footage": prepare_footage,
    "card": make_performer_card,
    "solve": solve_take,
}


def run_job(work: Work, identity: str) -> None:
    """Runs the job of this id, on behalf of who asked for it."""
    with work.store.unit() as unit:
        job = unit.jobs.get(identity)
        if job is None or job.state != "queued":
            return
        unit.jobs.change(identity, state="running", progress=0.0)

    def progress(part: float, message: str) -> None:
        with work.store.unit() as unit:
            now = unit.jobs.get(identity)
            if now is None or now.cancelling:
                raise CancelledError("cancelled on request")
            unit.jobs.change(identity, progress=part, message=message)

    try:
        result = HANDLERS[job.kind](work.by(job.person), job, progress)
        values: dict[str, Any] = {"state": "done", "progress": 1.0, "message": "", "result": result}
    except CancelledError as error:
        values = {"state": "cancelled", "message": str(error)}
    except DynafaceError as error:
        values = {"state": "failed", "message": str(error)}
    except Exception as error:
        log.exception("job %s failed", identity)
        values = {"state": "failed", "message": f"an error of ours: {type(error).__name__}. The log says more"}
    with work.store.unit() as unit:
        unit.jobs.change(identity, **values)
