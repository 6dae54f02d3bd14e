"""Stretches of footage that several workers measure; jobs that outlive their worker; uploads in pieces."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB, UUID

revision = "0002"
down_revision = "0001"


def upgrade() -> None:
    """Makes the table and the columns."""
    op.create_table(
        "stretches",
        sa.Column("footage", UUID(as_uuid=False), sa.ForeignKey("sources.id", ondelete="CASCADE"), primary_key=True),
        sa.Column("what", sa.Text, primary_key=True),
        sa.Column("first", sa.Integer, primary_key=True),
        sa.Column("last", sa.Integer, primary_key=True),
        sa.Column("owner", sa.Text, nullable=False),
        sa.Column("reached", sa.Integer, nullable=False, server_default="0"),
        sa.Column("seen", sa.DateTime(timezone=True), nullable=False, server_default=sa.func.now()),
        sa.Column("media", sa.Text, nullable=False, server_default=""),
    )
    op.create_table(
        "uploads",
        sa.Column("id", UUID(as_uuid=False), primary_key=True),
        sa.Column(
            "production", UUID(as_uuid=False), sa.ForeignKey("productions.id", ondelete="CASCADE"), nullable=False
        ),
        sa.Column("person", UUID(as_uuid=False), sa.ForeignKey("people.id"), nullable=False),
        sa.Column("size", sa.BigInteger, nullable=False),
        sa.Column("received", sa.BigInteger, nullable=False, server_default="0"),
        sa.Column("pieces", JSONB, nullable=False, server_default="[]"),
        sa.Column("media", sa.Text, nullable=False, server_default=""),
        sa.Column("begun", sa.DateTime(timezone=True), nullable=False, server_default=sa.func.now()),
    )
    op.add_column("jobs", sa.Column("seen", sa.DateTime(timezone=True), nullable=False, server_default=sa.func.now()))
    op.add_column("jobs", sa.Column("tries", sa.Integer, nullable=False, server_default="0"))


def downgrade() -> None:
    """Takes them away."""
    op.drop_column("jobs", "tries")
    op.drop_column("jobs", "seen")
    op.drop_table("uploads")
    op.drop_table("stretches")
