"""Stretches of footage that workers have measured, or are at."""

from sqlalchemy import Column, DateTime, ForeignKey, Integer, Table, Text, func

from dynaface.store.tables import metadata

stretches = Table(
    "stretches",
    metadata,
    Column("footage", ForeignKey("sources.id", ondelete="CASCADE"), primary_key=True),
    # What is measured, with all that it depends on beside the pictures.
    Column("what", Text, primary_key=True),
    Column("first", Integer, primary_key=True),
    Column("last", Integer, primary_key=True),
    Column("owner", Text, nullable=False),
    Column("reached", Integer, nullable=False, server_default="0"),
    Column("seen", DateTime(timezone=True), nullable=False, server_default=func.now()),
    # The result, in the media store; empty while somebody is at it.
    Column("media", Text, nullable=False, server_default=""),
)
