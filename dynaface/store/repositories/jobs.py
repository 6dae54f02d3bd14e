"""Jobs and handovers."""

from datetime import timedelta
from typing import Any
from uuid import uuid4

from sqlalchemy import Connection, Row, func, select, update

from dynaface.core.records.records import Handover, Job
from dynaface.store.tables.jobs import handovers, jobs


def _job(r: Row[Any]) -> Job:
    return Job(r.id, r.production, r.person, r.kind, r.label, r.state, r.progress, r.message, r.request, r.result,
               r.cancelling, r.created)  # fmt: skip


def _handover(r: Row[Any]) -> Handover:
    return Handover(r.id, r.production, r.document, r.label, r.settings, r.report, r.files, r.created)


class Jobs:
    """Jobs and handovers."""

    def __init__(self, connection: Connection) -> None:
        self._db = connection

    def add(self, production: str, person: str, kind: str, label: str, request: dict[str, Any]) -> Job:
        """A new job, queued."""
        identity = str(uuid4())
        self._db.execute(
            jobs.insert().values(
                id=identity, production=production, person=person, kind=kind, label=label, request=request
            )
        )
        found = self.get(identity)
        assert found is not None
        return found

    def get(self, job: str) -> Job | None:
        """The job of this id."""
        row = self._db.execute(select(jobs).where(jobs.c.id == job)).first()
        return _job(row) if row else None

    def recent(self, production: str, most: int = 30) -> list[Job]:
        """The newest jobs of a production, newest first."""
        query = select(jobs).where(jobs.c.production == production).order_by(jobs.c.created.desc()).limit(most)
        return [_job(r) for r in self._db.execute(query)]

    def change(self, job: str, **values: Any) -> None:
        """Sets columns of a job."""
        self._db.execute(update(jobs).where(jobs.c.id == job).values(**values))

    def begin(self, job: str) -> bool:
        """True when the queued job is now running, and it was this call that began it."""
        where = (jobs.c.id == job, jobs.c.state == "queued")
        values = {"state": "running", "progress": 0.0, "seen": func.now(), "tries": jobs.c.tries + 1}
        return self._db.execute(update(jobs).where(*where).values(values)).rowcount == 1

    def beat(self, job: str) -> None:
        """Says that the job's worker is alive."""
        self._db.execute(update(jobs).where(jobs.c.id == job).values(seen=func.now()))

    def recover(self, stale: float, most: int) -> list[str]:
        """Queues again the running jobs whose worker was not heard of for `stale` seconds, and gives their ids; one
        that has been begun `most` times has failed.
        """
        lost = (jobs.c.state == "running", jobs.c.seen < func.now() - timedelta(seconds=stale))
        message = f"its worker was lost {most} times; the machine may be short of memory"
        self._db.execute(update(jobs).where(*lost, jobs.c.tries >= most).values(state="failed", message=message))
        again = update(jobs).where(*lost).values(state="queued", message="its worker was lost; it goes on")
        return list(self._db.execute(again.returning(jobs.c.id)).scalars())

    def add_handover(self, production: str, document: str, label: str, settings: dict[str, Any], report: dict[str, Any],
                     files: list[dict[str, Any]]) -> Handover:  # fmt: skip
        """A new handover."""
        identity = str(uuid4())
        self._db.execute(
            handovers.insert().values(
                id=identity,
                production=production,
                document=document,
                label=label,
                settings=settings,
                report=report,
                files=files,
            )
        )
        found = self.handover(identity)
        assert found is not None
        return found

    def handover(self, handover: str) -> Handover | None:
        """The handover of this id."""
        row = self._db.execute(select(handovers).where(handovers.c.id == handover)).first()
        return _handover(row) if row else None

    def handovers_of(self, production: str) -> list[Handover]:
        """All handovers of a production, newest first."""
        query = select(handovers).where(handovers.c.production == production).order_by(handovers.c.created.desc())
        return [_handover(r) for r in self._db.execute(query)]
