"""The lock for running: what the project needs at run time, pinned as in the lock for development, and nothing else."""

from tools.runtime_lock import LOCK, RUNTIME, needed, pinned, runtime_lock


def test_the_runtime_lock_is_what_the_tool_writes():
    assert RUNTIME.read_text() == runtime_lock(), "run python -m tools.runtime_lock"


def test_it_pins_as_the_development_lock_and_holds_no_tool():
    runtime, development = pinned(RUNTIME.read_text()), pinned(LOCK.read_text())
    assert set(runtime.items()) <= set(development.items())
    assert not {"pytest", "ruff", "mypy", "hypothesis", "playwright", "schemathesis", "pocketsphinx"} & set(runtime)
    assert {"flask", "sqlalchemy", "mediapipe", "psycopg-pool", "procrastinate"} <= set(runtime)


def test_everything_that_running_needs_is_pinned():
    assert needed() - {"dynaface-app"} <= set(pinned(RUNTIME.read_text()))
