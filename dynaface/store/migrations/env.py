"""Alembic's entry: uses the connection given, or one of its own from the command line."""

from alembic import context
from sqlalchemy import create_engine

from dynaface.store.tables import documents, jobs, metadata, people, sources

assert all((documents, jobs, people, sources))  # imported so that metadata knows them

connection = context.config.attributes.get("connection")
if connection is None:
    with create_engine(context.config.get_main_option("sqlalchemy.url") or "").begin() as own:
        context.configure(connection=own, target_metadata=metadata)
        context.run_migrations()
else:
    context.configure(connection=connection, target_metadata=metadata)
    context.run_migrations()
