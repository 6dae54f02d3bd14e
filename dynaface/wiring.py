"""The one place that builds and connects everything."""

from flask import Flask

from dynaface.demo.seed import seed_demo
from dynaface.jobs.queue import run_worker, schema_sql, sender
from dynaface.jobs.run_job import run_job
from dynaface.services.work import Work
from dynaface.settings import Settings
from dynaface.store.media import Media
from dynaface.store.migrate import migrate
from dynaface.store.unit import Store
from dynaface.web.app import make_app


def make_work(settings: Settings) -> Work:
    """Store, media and queue, for nobody in particular."""
    return Work(Store(settings.database), Media(settings.media), sender(settings.database), settings.node)


def prepare(settings: Settings) -> None:
    """Brings the database to its newest shape and seeds the demo once."""
    work = make_work(settings)
    migrate(work.store, settings.database, schema_sql())
    seed_demo(work)
    work.store.close()


def web(settings: Settings) -> Flask:
    """The web application."""
    return make_app(make_work(settings), settings)


def work_on_jobs(settings: Settings, wait: bool = True) -> None:
    """Runs a worker until it is told to stop."""
    work = make_work(settings)
    run_worker(settings.database, lambda job: run_job(work, job), wait=wait)
