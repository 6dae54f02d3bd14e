"""Jobs as people see them (the queue itself is Procrastinate's), and handovers."""

from sqlalchemy import Boolean, Column, DateTime, Float, ForeignKey, Integer, Table, Text, func
from sqlalchemy.dialects.postgresql import JSONB, UUID

from dynaface.store.tables import metadata

jobs = Table(
    "jobs",
    metadata,
    Column("id", UUID(as_uuid=False), primary_key=True),
    Column("production", ForeignKey("productions.id", ondelete="CASCADE"), nullable=False, index=True),
    Column("person", ForeignKey("people.id"), nullable=False),
    Column("kind", Text, nullable=False),
    Column("label", Text, nullable=False),
    Column("state", Text, nullable=False, server_default="queued"),
    Column("progress", Float, nullable=False, server_default="0"),
    Column("message", Text, nullable=False, server_default=""),
    Column("request", JSONB, nullable=False),
    Column("result", JSONB, nullable=False, server_default="{}"),
    Column("cancelling", Boolean, nullable=False, server_default="false"),
    Column("created", DateTime(timezone=True), nullable=False, server_default=func.now()),
    # When its worker was last heard of, and how often a worker has begun it.
    Column("seen", DateTime(timezone=True), nullable=False, server_default=func.now()),
    Column("tries", Integer, nullable=False, server_default="0"),
)
handovers = Table(
    "handovers",
    metadata,
    Column("id", UUID(as_uuid=False), primary_key=True),
    Column("production", ForeignKey("productions.id", ondelete="CASCADE"), nullable=False, index=True),
    Column("document", ForeignKey("documents.id", ondelete="CASCADE"), nullable=False),
    Column("label", Text, nullable=False),
    Column("settings", JSONB, nullable=False),
    Column("report", JSONB, nullable=False),
    Column("files", JSONB, nullable=False),
    Column("created", DateTime(timezone=True), nullable=False, server_default=func.now()),
)
