"""A GET never writes: every one of them is asked about the demo while the database only reads."""

from collections.abc import Iterator

import pytest
from sqlalchemy import event

from dynaface.core.documents.kinds import KINDS
from dynaface.demo.seed import NAME
from dynaface.services.people.sign_in import local_person
from dynaface.web.app import make_app

ELSEWHERE = {"static"}
SPECIAL = {"first": "0", "last": "9", "number": "0", "shape": "jawOpen"}


@pytest.fixture(scope="module")
def client(base, settings):
    return make_app(base, settings).test_client()


@pytest.fixture(scope="module")
def known(base) -> dict[str, list[str]]:
    """Ids of the demo by the names that routes have for them; "" stands for none."""
    person = local_person(base.store)
    with base.store.unit() as unit:
        production = next(p.id for p in unit.people.productions_of(person.id) if p.name == NAME)
        ids = {kind: [d.id for d in unit.documents.of_kind(production, KINDS[kind])] for kind in KINDS}
        takes = unit.documents.of_kind(production, KINDS["take"])
        sources = [source for take in takes for source in take.body.sources.held.values()]
        cards = [c.body.source for c in unit.documents.of_kind(production, KINDS["card"])]
    nothing = ["00000000-0000-0000-0000-000000000000"]
    return {
        "production": [production], "take": ids["take"], "other": ids["take"][:1], "character": ids["character"],
        "shot": ids["shot"], "lineup": ids["lineup"], "layout": ids["layout"], "source": [*sources, *cards], "handover": nothing, "upload": nothing,
        **{name: [value] for name, value in SPECIAL.items()},
    }  # fmt: skip


@pytest.fixture
def read_only(base) -> Iterator[None]:
    """Each transaction refuses to write."""

    def begin(connection):
        connection.exec_driver_sql("SET TRANSACTION READ ONLY")

    event.listen(base.store.engine, "begin", begin)
    yield
    event.remove(base.store.engine, "begin", begin)


def addresses(client, known) -> list[str]:
    """Every GET with ids of the demo in its places; the first few of each kind."""
    out = []
    for rule in client.application.url_map.iter_rules():
        if "GET" not in rule.methods or not rule.rule.startswith("/api/") or rule.endpoint in ELSEWHERE:
            continue
        named = sorted(rule.arguments)
        assert set(named) <= set(known), f"say what {named} of {rule.rule} may be"
        most = max((len(known[n]) for n in named), default=1)
        for number in range(most):
            given = {n: known[n][number % len(known[n])] for n in named}
            out.append(str(client.application.url_map.bind("localhost").build(rule.endpoint, given)))
    return out


def test_a_get_never_writes(client, known, read_only, caplog):
    asked = addresses(client, known)
    assert len(asked) > 100
    failed = [a for a in asked if client.get(a).status_code >= 500]
    assert failed == []


def test_what_writes_is_seen_by_this_test(client, known, read_only):
    answer = client.post(f"/api/takes/{known['take'][0]}/open", headers={"X-Dynaface": "1"})
    made = client.post("/api/productions", json={"name": "x"}, headers={"X-Dynaface": "1"})
    assert answer.status_code in (200, 500)
    assert made.status_code == 500
