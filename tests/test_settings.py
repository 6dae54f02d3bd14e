"""Settings from the environment."""

import pytest

from dynaface.settings import from_environment

DATABASE = "postgresql+psycopg://nobody@127.0.0.1:1/none"


@pytest.fixture
def environment(monkeypatch):
    for name in ("MEDIA", "ACCOUNTS", "NODE", "SECRET_FILE", "PROXIES"):
        monkeypatch.delenv(f"DYNAFACE_{name}", raising=False)
    monkeypatch.setenv("DYNAFACE_DATABASE", DATABASE)
    return monkeypatch


def test_a_machine_that_is_used_alone_needs_a_database_only(environment):
    made = from_environment()
    assert (made.database, made.accounts, made.node, made.proxies) == (DATABASE, "alone", "", 0)
    assert (made.frontend / "index.html").is_file()


def test_without_a_database_it_says_what_to_do(environment):
    environment.delenv("DYNAFACE_DATABASE")
    with pytest.raises(SystemExit, match=r"\./dev start"):
        from_environment()


def test_a_team_sets_the_rest(environment):
    given = {"MEDIA": "memory://media", "ACCOUNTS": "password", "NODE": "/usr/bin/node", "PROXIES": "2"}
    for name, value in given.items():
        environment.setenv(f"DYNAFACE_{name}", value)
    made = from_environment()
    assert (made.media, made.accounts, made.node, made.proxies) == ("memory://media", "password", "/usr/bin/node", 2)


@pytest.mark.parametrize("wrong", ["-1", "one", "1.5", ""])
def test_proxies_are_counted(environment, wrong):
    environment.setenv("DYNAFACE_PROXIES", wrong)
    with pytest.raises(SystemExit, match="DYNAFACE_PROXIES"):
        from_environment()


def test_a_secret_is_made_once_and_kept_from_others(environment, tmp_path):
    file = tmp_path / "deep/secret"
    environment.setenv("DYNAFACE_SECRET_FILE", str(file))
    first = from_environment().secret
    assert len(first) == 64
    assert from_environment().secret == first
    assert file.stat().st_mode & 0o077 == 0


def test_without_a_file_each_start_has_a_secret_of_its_own(environment):
    assert from_environment().secret != from_environment().secret
