"""What undid a change: redo over several documents takes what was undone last."""

import sqlalchemy as sa
from alembic import op

revision = "0003"
down_revision = "0002"


def upgrade() -> None:
    """Adds the column; what is undone already keeps the order that it had, oldest first."""
    op.add_column("history", sa.Column("undone_by", sa.BigInteger))
    op.execute("UPDATE history SET undone_by = -id WHERE state = 'undone'")


def downgrade() -> None:
    """Takes the column away."""
    op.drop_column("history", "undone_by")
