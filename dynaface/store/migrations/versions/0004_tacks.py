"""What was set by hand for solves is called a tack: undo of earlier edits finds it under its name."""

from alembic import op

revision = "0004"
down_revision = "0003"


def _rename(old: str, new: str) -> None:
    op.execute(
        f"""
        UPDATE history SET changes = (
            SELECT jsonb_agg(CASE WHEN c->>'path' ~ '^{old}(/|$)'
                THEN jsonb_set(c, '{{path}}', to_jsonb(regexp_replace(c->>'path', '^{old}', '{new}'))) ELSE c END ORDER BY n)
            FROM jsonb_array_elements(changes) WITH ORDINALITY AS e(c, n))
        FROM documents d
        WHERE d.id = history.document AND d.kind = 'take' AND changes::text LIKE '%"path": "{old}%'
        """
    )
    op.execute(
        f"""
        UPDATE sources SET info = jsonb_set(info #- '{{solve,{old}}}', '{{solve,{new}}}', info #> '{{solve,{old}}}')
        WHERE info->'solve' ? '{old}'
        """
    )


def upgrade() -> None:
    """Paths in the history of takes, and the count that a solve keeps. Bodies are brought up as they are read."""
    _rename("pins", "tacks")


def downgrade() -> None:
    """The earlier word."""
    _rename("tacks", "pins")
