"""People, productions and who is a member of what."""

from sqlalchemy import Column, DateTime, ForeignKey, Table, Text, func
from sqlalchemy.dialects.postgresql import UUID

from dynaface.store.tables import metadata

people = Table(
    "people",
    metadata,
    Column("id", UUID(as_uuid=False), primary_key=True),
    Column("name", Text, nullable=False, unique=True),
    Column("password_hash", Text, nullable=False, server_default=""),
)
productions = Table(
    "productions",
    metadata,
    Column("id", UUID(as_uuid=False), primary_key=True),
    Column("name", Text, nullable=False),
    Column("created", DateTime(timezone=True), nullable=False, server_default=func.now()),
)
members = Table(
    "members",
    metadata,
    Column("production", ForeignKey("productions.id", ondelete="CASCADE"), primary_key=True),
    Column("person", ForeignKey("people.id", ondelete="CASCADE"), primary_key=True),
    Column("role", Text, nullable=False),
)
