"""Sessions of people who are signed in."""

from sqlalchemy import Column, DateTime, ForeignKey, Table, Text, func
from sqlalchemy.dialects.postgresql import UUID

from dynaface.store.tables import metadata

sessions = Table(
    "sessions",
    metadata,
    Column("id", UUID(as_uuid=False), primary_key=True),
    # SHA-256 of what the cookie holds: who reads the table cannot take a session over.
    Column("token", Text, nullable=False, unique=True),
    Column("person", ForeignKey("people.id", ondelete="CASCADE"), nullable=False, index=True),
    Column("address", Text, nullable=False),
    Column("agent", Text, nullable=False),
    Column("begun", DateTime(timezone=True), nullable=False, server_default=func.now()),
    Column("seen", DateTime(timezone=True), nullable=False, server_default=func.now()),
)
