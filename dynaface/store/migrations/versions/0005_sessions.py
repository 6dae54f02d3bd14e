"""Sessions are kept on the server, so that they can be listed and ended."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import UUID

revision = "0005"
down_revision = "0004"


def upgrade() -> None:
    """Makes the table; who was signed in signs in again."""
    op.create_table(
        "sessions",
        sa.Column("id", UUID(as_uuid=False), primary_key=True),
        sa.Column("token", sa.Text, nullable=False, unique=True),
        sa.Column(
            "person", UUID(as_uuid=False), sa.ForeignKey("people.id", ondelete="CASCADE"), nullable=False, index=True
        ),
        sa.Column("address", sa.Text, nullable=False),
        sa.Column("agent", sa.Text, nullable=False),
        sa.Column("begun", sa.DateTime(timezone=True), nullable=False, server_default=sa.func.now()),
        sa.Column("seen", sa.DateTime(timezone=True), nullable=False, server_default=sa.func.now()),
    )


def downgrade() -> None:
    """Drops it."""
    op.drop_table("sessions")
