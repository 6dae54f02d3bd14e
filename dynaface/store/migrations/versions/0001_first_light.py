"""People, productions, documents with history, sources with blocks, jobs, handovers."""

from typing import Any

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB, UUID

revision = "0001"
down_revision = None

ID = UUID(as_uuid=False)


def _at(name: str) -> sa.Column[Any]:
    return sa.Column(name, sa.DateTime(timezone=True), nullable=False, server_default=sa.func.now())


def _of(name: str, to: str, **more: Any) -> sa.Column[Any]:
    return sa.Column(name, ID, sa.ForeignKey(f"{to}.id", ondelete="CASCADE"), nullable=False, **more)


def upgrade() -> None:
    """Makes the tables."""
    op.create_table(
        "people",
        sa.Column("id", ID, primary_key=True),
        sa.Column("name", sa.Text, nullable=False, unique=True),
        sa.Column("password_hash", sa.Text, nullable=False, server_default=""),
    )
    op.create_table(
        "productions", sa.Column("id", ID, primary_key=True), sa.Column("name", sa.Text, nullable=False), _at("created")
    )
    op.create_table(
        "members",
        _of("production", "productions", primary_key=True),
        _of("person", "people", primary_key=True),
        sa.Column("role", sa.Text, nullable=False),
    )
    op.create_table(
        "documents",
        sa.Column("id", ID, primary_key=True),
        _of("production", "productions"),
        sa.Column("kind", sa.Text, nullable=False),
        sa.Column("key", sa.Text, nullable=False),
        sa.Column("version", sa.Integer, nullable=False, server_default="1"),
        sa.Column("body", JSONB, nullable=False),
        _at("created"),
        sa.UniqueConstraint("production", "kind", "key"),
    )
    op.create_table(
        "history",
        sa.Column("id", sa.BigInteger, sa.Identity(), primary_key=True),
        _of("document", "documents"),
        sa.Column("person", ID, sa.ForeignKey("people.id"), nullable=False),
        sa.Column("label", sa.Text, nullable=False),
        sa.Column("version", sa.Integer, nullable=False),
        sa.Column("state", sa.Text, nullable=False),
        sa.Column("changes", JSONB, nullable=False),
        _at("at"),
    )
    op.create_index("ix_history_document", "history", ["document", "version"])
    op.create_table(
        "sources",
        sa.Column("id", ID, primary_key=True),
        _of("production", "productions", index=True),
        sa.Column("kind", sa.Text, nullable=False),
        sa.Column("name", sa.Text, nullable=False),
        sa.Column("media", sa.Text, nullable=False),
        sa.Column("size", sa.BigInteger, nullable=False),
        sa.Column("info", JSONB, nullable=False),
        _at("created"),
    )
    op.create_table(
        "blocks",
        _of("source", "sources", primary_key=True),
        sa.Column("part", sa.Text, primary_key=True),
        sa.Column("number", sa.Integer, primary_key=True),
        sa.Column("rows", sa.Integer, nullable=False),
        sa.Column("columns", sa.Integer, nullable=False),
        sa.Column("data", sa.LargeBinary, nullable=False),
    )
    op.execute("ALTER TABLE blocks ALTER COLUMN data SET STORAGE EXTERNAL")
    op.create_table(
        "recipes",
        _of("production", "productions", primary_key=True),
        sa.Column("header", sa.Text, primary_key=True),
        sa.Column("recipe", JSONB, nullable=False),
    )
    op.create_table(
        "jobs",
        sa.Column("id", ID, primary_key=True),
        _of("production", "productions", index=True),
        sa.Column("person", ID, sa.ForeignKey("people.id"), nullable=False),
        sa.Column("kind", sa.Text, nullable=False),
        sa.Column("label", sa.Text, nullable=False),
        sa.Column("state", sa.Text, nullable=False, server_default="queued"),
        sa.Column("progress", sa.Float, nullable=False, server_default="0"),
        sa.Column("message", sa.Text, nullable=False, server_default=""),
        sa.Column("request", JSONB, nullable=False),
        sa.Column("result", JSONB, nullable=False, server_default="{}"),
        sa.Column("cancelling", sa.Boolean, nullable=False, server_default="false"),
        _at("created"),
    )
    op.create_table(
        "handovers",
        sa.Column("id", ID, primary_key=True),
        _of("production", "productions", index=True),
        _of("document", "documents"),
        sa.Column("label", sa.Text, nullable=False),
        sa.Column("settings", JSONB, nullable=False),
        sa.Column("report", JSONB, nullable=False),
        sa.Column("files", JSONB, nullable=False),
        _at("created"),
    )


def downgrade() -> None:
    """Takes the tables away."""
    for table in (
        "handovers",
        "jobs",
        "recipes",
        "blocks",
        "sources",
        "history",
        "documents",
        "members",
        "productions",
        "people",
    ):
        op.drop_table(table)
