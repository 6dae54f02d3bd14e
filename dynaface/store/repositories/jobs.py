"""Jobs and handovers."""

from typing import Any
from uuid import uuid4

from sqlalchemy import Connection, Row, select, update

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
