"""The unit of work: one transaction with all repositories on it."""

from collections.abc import Iterator
from contextlib import contextmanager

from sqlalchemy import Connection, Engine, create_engine, text
from sqlalchemy.exc import SQLAlchemyError

from dynaface.core.errors import CancelledError
from dynaface.store.repositories.documents import Documents
from dynaface.store.repositories.jobs import Jobs
from dynaface.store.repositories.people import People
from dynaface.store.repositories.sessions import Sessions
from dynaface.store.repositories.sources import Sources
from dynaface.store.repositories.stretches import Stretches
from dynaface.store.repositories.uploads import Uploads


class Unit:
    """Repositories that share one transaction."""

    def __init__(self, connection: Connection) -> None:
        self.connection = connection
        self.people = People(connection)
        self.sessions = Sessions(connection)
        self.documents = Documents(connection)
        self.sources = Sources(connection)
        self.jobs = Jobs(connection)
        self.stretches = Stretches(connection)
        self.uploads = Uploads(connection)


class Store:
    """The database."""

    def __init__(self, url: str) -> None:
        self.engine: Engine = create_engine(url, pool_size=8, max_overflow=8, pool_pre_ping=True)

    @contextmanager
    def unit(self) -> Iterator[Unit]:
        """A transaction: committed at the end, rolled back on any error."""
        with self.engine.begin() as connection:
            yield Unit(connection)

    def fenced(self, job: str, attempt: int) -> "Store":
        """The same database for an attempt at a job: each transaction holds the job, or raises CancelledError where another
        attempt has it.
        """
        return _Fenced(self.engine, job, attempt)

    @contextmanager
    def snapshot(self) -> Iterator[Unit]:
        """A transaction that only reads, and sees everything as it was at its first statement."""
        with self.engine.connect() as connection:
            connection = connection.execution_options(isolation_level="REPEATABLE READ", postgresql_readonly=True)
            with connection.begin():
                yield Unit(connection)

    def readiness(self) -> dict[str, bool]:
        """Whether the database answers, and whether it holds the queue."""
        try:
            with self.engine.connect() as connection:
                queue = connection.execute(text("SELECT to_regclass('procrastinate_jobs') IS NOT NULL")).scalar()
        except SQLAlchemyError:
            return {"database": False, "queue": False}
        return {"database": True, "queue": bool(queue)}

    def close(self) -> None:
        """Gives all connections back; a process that forks must not share one."""
        self.engine.dispose()


class _Fenced(Store):
    def __init__(self, engine: Engine, job: str, attempt: int) -> None:
        self.engine, self._job, self._attempt = engine, job, attempt

    @contextmanager
    def unit(self) -> Iterator[Unit]:
        with super().unit() as unit:
            if not unit.jobs.hold(self._job, self._attempt):
                raise CancelledError("another worker has taken this job over")
            yield unit
