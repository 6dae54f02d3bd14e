"""Uploads under way: pieces that have come, until the file is whole."""

from sqlalchemy import BigInteger, Column, DateTime, ForeignKey, Table, Text, func
from sqlalchemy.dialects.postgresql import JSONB, UUID

from dynaface.store.tables import metadata

uploads = Table(
    "uploads",
    metadata,
    Column("id", UUID(as_uuid=False), primary_key=True),
    Column("production", ForeignKey("productions.id", ondelete="CASCADE"), nullable=False),
    Column("person", ForeignKey("people.id"), nullable=False),
    Column("size", BigInteger, nullable=False),
    Column("received", BigInteger, nullable=False, server_default="0"),
    # Media of the pieces, in order.
    Column("pieces", JSONB, nullable=False, server_default="[]"),
    # The whole file, once all of it has come.
    Column("media", Text, nullable=False, server_default=""),
    Column("begun", DateTime(timezone=True), nullable=False, server_default=func.now()),
)
