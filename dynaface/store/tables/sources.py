"""Sources, their blocks of numbers, and the reading recipes learned from them."""

from sqlalchemy import BigInteger, Column, DateTime, ForeignKey, Integer, LargeBinary, Table, Text, func
from sqlalchemy.dialects.postgresql import JSONB, UUID

from dynaface.store.tables import metadata

sources = Table(
    "sources",
    metadata,
    Column("id", UUID(as_uuid=False), primary_key=True),
    Column("production", ForeignKey("productions.id", ondelete="CASCADE"), nullable=False, index=True),
    Column("kind", Text, nullable=False),
    Column("name", Text, nullable=False),
    Column("media", Text, nullable=False),
    Column("size", BigInteger, nullable=False),
    Column("info", JSONB, nullable=False),
    Column("created", DateTime(timezone=True), nullable=False, server_default=func.now()),
)
blocks = Table(
    "blocks",
    metadata,
    Column("source", ForeignKey("sources.id", ondelete="CASCADE"), primary_key=True),
    Column("part", Text, primary_key=True),
    Column("number", Integer, primary_key=True),
    Column("rows", Integer, nullable=False),
    Column("columns", Integer, nullable=False),
    # zstd of little-endian values; kept out of line as it is (see the migration), for it is compressed already.
    Column("data", LargeBinary, nullable=False),
)
recipes = Table(
    "recipes",
    metadata,
    Column("production", ForeignKey("productions.id", ondelete="CASCADE"), primary_key=True),
    Column("header", Text, primary_key=True),
    Column("recipe", JSONB, nullable=False),
)
