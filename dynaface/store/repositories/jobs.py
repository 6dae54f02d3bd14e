"""Jobs and handovers."""

from datetime import timedelta
from typing import Any
from uuid import uuid4

from sqlalchemy import Connection, Row, func, select, text, update

from dynaface.core.records.records import Handover, Job
from dynaface.store.tables.jobs import handovers, jobs


def _job(r: Row[Any]) -> Job:
    return Job(r.id, r.production, r.person, r.kind, r.label, r.state, r.progress, r.message, r.request, r.result,
               r.cancelling, r.created)  # fmt: skip


def _handover(r: Row[Any]) -> Handover:
    return Handover(r.id, r.production, r.document, r.label, r.settings, r.report, r.files, r.created)


# The queue's own tables (Procrastinate's): its entries, and the workers that it hears of.
_GONE = """NOT EXISTS (SELECT 1 FROM procrastinate_workers w WHERE w.id = q.worker_id
           AND w.last_heartbeat > now() - make_interval(secs => :alive))"""
_CLOSE = f"""
SELECT procrastinate_finish_job_v1(q.id, 'failed', true) FROM procrastinate_jobs q
WHERE q.task_name = :task AND q.status = 'doing' AND {_GONE}
"""
_LOST = """
SELECT j.id FROM jobs j
WHERE j.state = 'queued' AND j.created < now() - make_interval(secs => :young) AND NOT EXISTS (
    SELECT 1 FROM procrastinate_jobs q
    WHERE q.task_name = :task AND q.args->>'job' = j.id::text AND q.status IN ('todo', 'doing'))
"""


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

    def begin(self, job: str) -> int | None:
        """The number of the attempt, from 1, when the queued job is now running and it was this call that began it."""
        where = (jobs.c.id == job, jobs.c.state == "queued")
        values = {"state": "running", "progress": 0.0, "seen": func.now(), "tries": jobs.c.tries + 1}
        begun = update(jobs).where(*where).values(values).returning(jobs.c.tries)
        return self._db.execute(begun).scalar_one_or_none()

    def beat(self, job: str, attempt: int) -> None:
        """Says that the worker of an attempt is alive."""
        own = (jobs.c.id == job, jobs.c.tries == attempt, jobs.c.state == "running")
        self._db.execute(update(jobs).where(*own).values(seen=func.now()))

    def hold(self, job: str, attempt: int) -> bool:
        """Whether the job is still with this attempt; if so, it stays with it until the transaction ends."""
        own = (jobs.c.id == job, jobs.c.tries == attempt, jobs.c.state == "running")
        return self._db.execute(select(jobs.c.id).where(*own).with_for_update(read=True)).first() is not None

    def finish(self, job: str, attempt: int, **values: Any) -> bool:
        """Sets the last state of an attempt; False where the job has gone over to another."""
        own = (jobs.c.id == job, jobs.c.tries == attempt, jobs.c.state == "running")
        return self._db.execute(update(jobs).where(*own).values(**values)).rowcount == 1

    def without_entry(self, task: str, young: float, alive: float) -> list[str]:
        """Ids of queued jobs, older than `young` seconds, of which the queue knows nothing more: no entry that waits, and none
        with a worker that was heard of in the last `alive` seconds. Entries whose worker is gone are closed.
        """
        if not self._db.execute(select(func.pg_try_advisory_xact_lock(748202))).scalar():
            return []  # another worker is looking
        values = {"task": task, "young": young, "alive": alive}
        self._db.execute(text(_CLOSE), values)
        return [str(job) for job in self._db.execute(text(_LOST), values).scalars()]

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
                     files: list[dict[str, Any]], identity: str = "") -> Handover:  # fmt: skip
        """A new handover; where there is one of this identity already, that one."""
        identity = identity or str(uuid4())
        made = self.handover(identity)
        if made is not None:
            return made
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
