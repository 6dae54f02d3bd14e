"""Brings the database to the newest shape: our tables by Alembic, the queue's by Procrastinate."""

from pathlib import Path

from alembic import command
from alembic.config import Config
from sqlalchemy import text

from dynaface.store.unit import Store

MIGRATIONS = Path(__file__).parent / "migrations"


def alembic_config(url: str) -> Config:
    """Alembic's settings for a database."""
    config = Config()
    config.set_main_option("script_location", str(MIGRATIONS))
    config.set_main_option("sqlalchemy.url", url.replace("%", "%%"))
    return config


def migrate(store: Store, url: str, queue_schema: str) -> None:
    """Upgrades; safe to run again and by several at once."""
    with store.engine.begin() as connection:
        connection.execute(text("SELECT pg_advisory_xact_lock(748201)"))
        config = alembic_config(url)
        config.attributes["connection"] = connection
        command.upgrade(config, "head")
        if not connection.execute(text("SELECT to_regclass('procrastinate_jobs')")).scalar():
            # Straight to the driver: the schema has percent signs that are no parameters.
            connection.connection.driver_connection.execute(queue_schema)  # type: ignore[union-attr]
