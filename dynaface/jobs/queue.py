"""The queue in the same PostgreSQL: one task that runs a job by its id."""

from collections.abc import Callable
from typing import Any

import procrastinate
from procrastinate.schema import SchemaManager
from sqlalchemy.engine import make_url

TASK = "dynaface.run_job"
# Seconds between a worker's signs of life, without one, and between looks into the queue.
BEAT, SILENT, POLL = 3.0, 12.0, 2.0


def conninfo(url: str) -> dict[str, Any]:
    """The driver's arguments of a SQLAlchemy URL; its query may name the folder of a socket."""
    parts = make_url(url)
    given = {"host": parts.host, "port": parts.port, "user": parts.username, "password": parts.password,
             "dbname": parts.database, **parts.query}  # fmt: skip
    return {k: v for k, v in given.items() if v is not None}


def schema_sql() -> str:
    """The queue's own tables."""
    return SchemaManager.get_schema()


def sender(url: str) -> Callable[[str], None]:
    """A function that queues a job by its id; the connection opens at its first use."""
    app: list[Any] = []

    def defer(job: str) -> None:
        if not app:
            made = procrastinate.App(connector=procrastinate.SyncPsycopgConnector(kwargs=conninfo(url)))
            made.open()
            app.append(made)
        app[0].configure_task(TASK).defer(job=job)

    return defer


def run_worker(url: str, run: Callable[[str], None], concurrency: int = 1, wait: bool = True) -> None:
    """Takes jobs from the queue until told to stop (or, with wait False, until there are none)."""
    app = procrastinate.App(connector=procrastinate.PsycopgConnector(kwargs=conninfo(url)))

    @app.task(name=TASK)
    def run_job(job: str) -> None:
        run(job)

    app.run_worker(
        concurrency=concurrency,
        wait=wait,
        listen_notify=wait,
        # What became of a job stands in its own row.
        delete_jobs="always",
        update_heartbeat_interval=BEAT,
        stalled_worker_timeout=SILENT,
        fetch_job_polling_interval=POLL,
    )
