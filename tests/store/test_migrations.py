"""Migrations of what earlier releases stored, in a schema of their own that is taken away again."""

import json

import pytest
from alembic import command
from sqlalchemy import text

from dynaface.store.migrate import alembic_config


@pytest.fixture
def database(base):
    """(a connection to an empty schema, Alembic's settings for it)."""
    with base.store.engine.connect() as connection, connection.begin() as all_of_it:
        connection.execute(text("CREATE SCHEMA scratch"))
        connection.execute(text("SET LOCAL search_path TO scratch"))
        config = alembic_config("postgresql://unused")
        config.attributes["connection"] = connection
        yield connection, config
        all_of_it.rollback()


PRODUCTION, PERSON, TAKE, SOURCE = (f"00000000-0000-4000-8000-00000000000{n}" for n in range(4))
CHANGES = [
    {"path": "pins/p1", "before": None, "after": {"frame": 3}, "had": False, "has": True},
    {"path": "notes", "before": "pins", "after": "", "had": True, "has": True},
    {"path": "pins", "before": {}, "after": {"a": 1}, "had": True, "has": True},
    {"path": "pinsetter", "before": 1, "after": 2, "had": True, "has": True},
]


def test_undo_finds_what_was_set_by_hand_under_its_new_name(database):
    connection, config = database
    command.upgrade(config, "0003")

    def run(sql, **values):
        return connection.execute(text(sql), values)

    run("INSERT INTO people (id, name) VALUES (:p, 'Mara')", p=PERSON)
    run("INSERT INTO productions (id, name) VALUES (:p, 'Test')", p=PRODUCTION)
    run(
        "INSERT INTO documents (id, production, kind, key, body) VALUES (:t, :p, 'take', 'k', '{}')",
        t=TAKE,
        p=PRODUCTION,
    )
    run("INSERT INTO history (document, person, label, version, state, changes) VALUES (:t, :p, 'pin', 2, 'done', :c)",
        t=TAKE, p=PERSON, c=json.dumps(CHANGES))  # fmt: skip
    run("INSERT INTO sources (id, production, kind, name, media, size, info) VALUES (:s, :p, 'curves', 'c', :m, 1, :i)",
        s=SOURCE, p=PRODUCTION, m="0" * 64, i=json.dumps({"solve": {"pins": 2, "by": "Mara"}, "pins": 7}))  # fmt: skip
    command.upgrade(config, "head")
    changes = run("SELECT changes FROM history").scalar_one()
    assert [c["path"] for c in changes] == ["tacks/p1", "notes", "tacks", "pinsetter"]
    assert [{**c, "path": ""} for c in changes] == [{**c, "path": ""} for c in CHANGES]
    assert run("SELECT info FROM sources").scalar_one() == {"solve": {"tacks": 2, "by": "Mara"}, "pins": 7}
    command.downgrade(config, "0003")
    assert run("SELECT changes FROM history").scalar_one() == CHANGES
