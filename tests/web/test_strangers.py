"""Somebody who is no member: every address of the API is asked for a production of others, and nothing comes of it."""

from uuid import uuid4

import pytest

from dynaface.core.documents.kinds import KINDS
from dynaface.demo.seed import NAME
from dynaface.services.people.sign_in import add_account, local_person
from dynaface.web.app import make_app
from dynaface.web.people import limiter

HEADERS = {"X-Dynaface": "1"}
NOTHING = "00000000-0000-0000-0000-000000000000"
# What belongs to nobody, and what is about who asks.
OPEN = {"/api/health", "/api/session", "/api/catalogue", "/api/chart", "/api/heads/general", "/api/productions",
        "/api/openapi.json", "/api/docs"}  # fmt: skip
BODIES = {
    "name": "a name", "media": "0" * 64, "slate": "1", "performer": "", "files": [], "file": {"media": "0" * 64, "name": "a.csv"},
    "version": 1, "label": "a label", "changes": [], "pieces": [], "takes": [NOTHING], "keys": [], "size": 10,
    "documents": [NOTHING], "character": NOTHING, "edit": {"do": "delete", "channels": {}},
}  # fmt: skip


@pytest.fixture(scope="module")
def known(base) -> dict[str, str]:
    """One id of the demo for each name that addresses have for them."""
    person = local_person(base.store)
    with base.store.unit() as unit:
        production = next(p.id for p in unit.people.productions_of(person.id) if p.name == NAME)
        ids = {kind: next(iter(unit.documents.of_kind(production, KINDS[kind])), None) for kind in KINDS}
        take = ids["take"]
        source = next(iter(take.body.sources.held.values()))
        job = unit.jobs.add(production, person.id, "solve", "Solve", {}).id
        unit.jobs.change(job, state="done")
    held = {kind: (document.id if document else NOTHING) for kind, document in ids.items()}
    return held | {
        "production": production, "other": take.id, "document": take.id, "source": source, "job": job, "handover": NOTHING,
        "upload": NOTHING, "session": NOTHING, "first": "0", "last": "9", "number": "0", "shape": "jawOpen", "offset": "0", "maker": "m", "prop": "p",
    }  # fmt: skip


@pytest.fixture(scope="module")
def stranger(base, settings):
    """A client that is signed in and a member of nothing."""
    from dataclasses import replace

    name = f"Stranger {uuid4().hex[:6]}"
    add_account(base.store, name, "a long password")
    client = make_app(base, replace(settings, accounts="password")).test_client()
    limiter.reset()
    assert (
        client.post("/api/session", json={"name": name, "password": "a long password"}, headers=HEADERS).status_code
        == 200
    )
    return client


def addresses(client, known):
    """(method, address) of everything that is somebody's."""
    for rule in client.application.url_map.iter_rules():
        if not rule.rule.startswith("/api/") or rule.rule in OPEN or "<path" in rule.rule or not rule.arguments:
            continue
        assert set(rule.arguments) <= set(known), f"say what {rule.rule} is about"
        with client.application.test_request_context():
            address = client.application.url_map.bind("").build(rule.endpoint, {a: known[a] for a in rule.arguments})
        for method in sorted(rule.methods & {"GET", "POST", "PUT", "PATCH", "DELETE"}):
            yield method, address.removeprefix("http://") if "://" in address else address


def test_nothing_of_others_is_given_or_changed(stranger, known, base):
    asked = list(addresses(stranger, known))
    assert len(asked) > 60
    with base.store.unit() as unit:
        before = [(d.id, d.version) for d in unit.documents.of_kind(known["production"], KINDS["take"])]
    answered = {}
    for method, address in asked:
        answer = stranger.open(address, method=method, headers=HEADERS, json=None if method == "GET" else BODIES)
        answered[f"{method} {address}"] = answer.status_code
        assert NAME.encode() not in answer.data
    assert {a: s for a, s in answered.items() if s not in (403, 404, 422)} == {}
    reading = [s for a, s in answered.items() if a.startswith("GET")]
    assert set(reading) == {404}
    with base.store.unit() as unit:
        assert [(d.id, d.version) for d in unit.documents.of_kind(known["production"], KINDS["take"])] == before


@pytest.mark.parametrize("strange", ["x", "..", "0", "%00", "a" * 400, NOTHING])
def test_strange_ids_are_no_ids(stranger, known, strange):
    for method, address in addresses(
        stranger, {**known, **dict.fromkeys(("take", "source", "production", "document"), strange)}
    ):
        answer = stranger.open(address, method=method, headers=HEADERS, json=None if method == "GET" else BODIES)
        assert answer.status_code in (403, 404, 405, 422), f"{method} {address}"


def test_who_is_not_signed_in_is_asked_to_sign_in(stranger, known):
    nobody = stranger.application.test_client()
    for method, address in addresses(stranger, known):
        answer = nobody.open(address, method=method, headers=HEADERS, json=None if method == "GET" else BODIES)
        assert answer.status_code == 401, f"{method} {address}"
