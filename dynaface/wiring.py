"""The one place that builds and connects everything."""

import asyncio
import logging
import threading
import time

import cv2
from flask import Flask
from procrastinate.exceptions import ConnectorException
from psycopg import OperationalError
from sqlalchemy.exc import SQLAlchemyError

from dynaface.demo.seed import seed_demo
from dynaface.jobs.queue import run_worker, schema_sql, sender
from dynaface.jobs.run_job import recover_jobs, run_job
from dynaface.live.serve import serve_feeds
from dynaface.services.media.receive_upload import INCOMING
from dynaface.services.work import Work
from dynaface.settings import Settings
from dynaface.store.media import Media
from dynaface.store.migrate import migrate
from dynaface.store.unit import Store
from dynaface.web.app import make_app

log = logging.getLogger("dynaface")
logging.getLogger("psycopg.pool").setLevel(logging.ERROR)  # it tells of each try while the database is away
EACH = 4.0  # seconds between looks for jobs that lost their worker


def make_work(settings: Settings) -> Work:
    """Store, media and queue, for nobody in particular."""
    return Work(Store(settings.database), Media(settings.media), sender(settings.database), settings.node)


def prepare(settings: Settings) -> None:
    """Brings the database to its newest shape and seeds the demo once."""
    work = make_work(settings)
    migrate(work.store, settings.database, schema_sql())
    work.media.sweep(INCOMING)
    if settings.demo:
        seed_demo(work)
    work.store.close()


def web(settings: Settings) -> Flask:
    """The web application."""
    return make_app(make_work(settings), settings)


def work_on_jobs(settings: Settings, wait: bool = True) -> None:
    """Runs a worker until it is told to stop."""
    work = make_work(settings)
    cv2.setNumThreads(1)  # workers share the machine: more threads than cores only wait for each other
    if wait:
        threading.Thread(target=_recover, args=(work,), daemon=True).start()
    try:
        run_worker(settings.database, lambda job: run_job(work, job), wait=wait)
    except (ConnectorException, OperationalError) as error:
        raise SystemExit(f"dynaface: the worker lost the database: {str(error).splitlines()[0]}") from None


def live(settings: Settings, host: str) -> None:
    """Runs the process of feeds until it is told to stop."""
    work = make_work(settings)
    try:
        asyncio.run(serve_feeds(work, settings, host))
    finally:
        work.store.close()


def _recover(work: Work) -> None:
    while True:
        try:
            recover_jobs(work)
        except SQLAlchemyError:
            log.warning("lost jobs could not be looked for; the database is not reached")
        time.sleep(EACH)
