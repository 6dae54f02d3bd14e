"""Seeing and cancelling jobs."""

from dynaface.core.errors import InputError, NotFoundError
from dynaface.core.records.records import Job
from dynaface.services.work import Work, allow, identity


def list_jobs(work: Work, production: str) -> list[Job]:
    """The newest jobs of a production."""
    with work.store.unit() as unit:
        allow(unit, production, work.person)
        return unit.jobs.recent(production)


def cancel_job(work: Work, job: str) -> Job:
    """Asks a job to stop; one that has not begun is cancelled at once."""
    with work.store.unit() as unit:
        found = unit.jobs.get(identity(job, "job"))
        if found is None:
            raise NotFoundError("there is no such job")
        allow(unit, found.production, work.person)
        if found.state not in ("queued", "running"):
            raise InputError(f"this job is {found.state} already")
        if found.state == "queued":
            unit.jobs.change(job, state="cancelled", cancelling=True)
        else:
            unit.jobs.change(job, cancelling=True)
        again = unit.jobs.get(job)
        assert again is not None
        return again
