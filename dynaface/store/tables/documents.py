"""Documents with versions, and the append-only history behind undo."""

from sqlalchemy import (
    BigInteger,
    Column,
    DateTime,
    ForeignKey,
    Identity,
    Index,
    Integer,
    Table,
    Text,
    UniqueConstraint,
    func,
)
from sqlalchemy.dialects.postgresql import JSONB, UUID

from dynaface.store.tables import metadata

documents = Table(
    "documents",
    metadata,
    Column("id", UUID(as_uuid=False), primary_key=True),
    Column("production", ForeignKey("productions.id", ondelete="CASCADE"), nullable=False),
    Column("kind", Text, nullable=False),
    # What makes a document the only one of its kind, such as the performer and character of a cast sheet.
    Column("key", Text, nullable=False),
    Column("version", Integer, nullable=False, server_default="1"),
    Column("body", JSONB, nullable=False),
    Column("created", DateTime(timezone=True), nullable=False, server_default=func.now()),
    UniqueConstraint("production", "kind", "key"),
)
history = Table(
    "history",
    metadata,
    Column("id", BigInteger, Identity(), primary_key=True),
    Column("document", ForeignKey("documents.id", ondelete="CASCADE"), nullable=False),
    Column("person", ForeignKey("people.id"), nullable=False),
    Column("label", Text, nullable=False),
    Column("version", Integer, nullable=False),
    Column("state", Text, nullable=False),
    # The "step" that undid the entry: what has the newest one was undone last, and is redone first.
    Column("undone_by", BigInteger),
    Column("changes", JSONB, nullable=False),
    Column("at", DateTime(timezone=True), nullable=False, server_default=func.now()),
    Index("ix_history_document", "document", "version"),
)
