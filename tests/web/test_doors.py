"""What stands before every view: who asks and from where, what a body may hold, what each answer says of itself."""

import logging
from dataclasses import replace
from uuid import uuid4

import pytest
from sqlalchemy.exc import OperationalError

from dynaface.core.errors import DeniedError
from dynaface.formats.entries.curve_table import write_table
from dynaface.services.people.sign_in import add_account
from dynaface.web import people
from dynaface.web.app import HEADERS as SAID
from dynaface.web.app import make_app
from dynaface.web.people import limiter
from tests.makers import channels

HEADERS = {"X-Dynaface": "1"}
PASSWORD = "lamps on the harbour"


@pytest.fixture(scope="module")
def app(base, settings):
    """The application with accounts."""
    return make_app(base, replace(settings, accounts="password", hosts=("faces.example",)))


@pytest.fixture
def account(base):
    """(name, password) of a new account."""
    name = f"Odo {uuid4().hex[:8]}"
    add_account(base.store, name, PASSWORD)
    limiter.reset()
    return {"name": name, "password": PASSWORD}


@pytest.fixture
def client(app, account):
    """Somebody who is signed in."""
    client = app.test_client()
    assert client.post("/api/session", json=account, headers=HEADERS).status_code == 200
    return client


class TestSessions:
    def test_a_cookie_that_was_copied_is_of_no_use_after_signing_out(self, app, client):
        cookie = client.get_cookie("dynaface").value
        assert client.delete("/api/session", headers=HEADERS).status_code == 200
        thief = app.test_client()
        thief.set_cookie("dynaface", cookie)
        assert thief.get("/api/productions").status_code == 401

    def test_are_listed_and_ended_from_elsewhere(self, app, client, account):
        other = app.test_client()
        other.post("/api/session", json=account, headers=HEADERS | {"User-Agent": "the old laptop"})
        listed = client.get("/api/sessions").json
        assert [s["here"] for s in listed] == [False, True]
        assert listed[0]["agent"] == "the old laptop"
        assert client.delete(f"/api/sessions/{listed[0]['id']}", headers=HEADERS).status_code == 200
        assert other.get("/api/productions").status_code == 401
        assert client.get("/api/productions").status_code == 200

    def test_another_password_is_set_with_the_old_one(self, client, account):
        new = "kelp above the tide"
        wrong = client.put("/api/password", json={"old": "something else", "new": new}, headers=HEADERS)
        assert wrong.status_code == 403
        weak = client.put("/api/password", json={"old": PASSWORD, "new": "passwordpassword"}, headers=HEADERS)
        assert (weak.status_code, "guessed first" in weak.json["message"]) == (422, True)
        assert client.put("/api/password", json={"old": PASSWORD, "new": new}, headers=HEADERS).status_code == 200
        again = client.post("/api/session", json=account | {"password": new}, headers=HEADERS)
        assert again.status_code == 200

    def test_the_cookie_is_kept_from_scripts_and_from_plain_connections(self, app, account):
        for scheme, secure in (("http", False), ("https", True)):
            answer = app.test_client().post(
                "/api/session", json=account, headers=HEADERS, base_url=f"{scheme}://localhost"
            )
            cookie = answer.headers["Set-Cookie"]
            assert "HttpOnly" in cookie
            assert "SameSite=Lax" in cookie
            assert ("Secure" in cookie) == secure


class TestGuessing:
    def test_is_counted_by_name_and_address_and_said_when_to_try_again(self, app, account):
        client = app.test_client()
        wrong = account | {"password": "not the password"}
        answers = [client.post("/api/session", json=wrong, headers=HEADERS) for _ in range(11)]
        assert [a.status_code for a in answers] == [403] * 10 + [429]
        assert 0 < int(answers[-1].headers["Retry-After"]) <= 60
        # From another address the right person is let in, with the right password only.
        elsewhere = {"REMOTE_ADDR": "10.0.0.7"}
        assert (
            client.post("/api/session", json=account, headers=HEADERS, environ_overrides=elsewhere).status_code == 200
        )

    def test_one_who_signs_in_often_is_not_taken_for_a_guesser(self, app, account):
        client = app.test_client()
        assert {client.post("/api/session", json=account, headers=HEADERS).status_code for _ in range(15)} == {200}

    def test_many_names_from_one_address_are_too_many_as_well(self, app, monkeypatch):
        def refused(*_):
            raise DeniedError("name or password is wrong")  # without the second that a password takes to be looked at

        monkeypatch.setattr(people, "sign_in", refused)
        limiter.reset()
        client = app.test_client()
        tried = [
            client.post("/api/session", json={"name": f"n{n}", "password": "x"}, headers=HEADERS).status_code
            for n in range(61)
        ]
        assert tried == [403] * 60 + [429]
        limiter.reset()

    def test_is_written_down(self, app, account, caplog):
        with caplog.at_level(logging.WARNING):
            app.test_client().post("/api/session", json=account | {"password": "not it"}, headers=HEADERS)
        assert account["name"] in caplog.text
        assert "not it" not in caplog.text


class TestOtherSites:
    @pytest.mark.parametrize(
        "headers",
        [
            {"Origin": "http://evil.example"},
            {"Origin": "null"},
            {"Sec-Fetch-Site": "cross-site", "Sec-Fetch-Mode": "cors"},
        ],
    )
    def test_are_refused_even_with_the_header(self, client, headers):
        assert client.get("/api/productions", headers=headers).status_code == 403
        made = client.post("/api/productions", json={"name": "x"}, headers=HEADERS | headers)
        assert made.status_code == 403

    def test_may_lead_to_us_by_a_link(self, client):
        followed = {"Sec-Fetch-Site": "cross-site", "Sec-Fetch-Mode": "navigate"}
        assert client.get("/api/docs", headers=followed).status_code == 200

    def test_our_own_pages_are_no_other_site(self, client):
        own = HEADERS | {"Origin": "http://localhost"}
        assert client.post("/api/productions", json={"name": "x"}, headers=own).status_code == 200

    @pytest.mark.parametrize(("host", "status"), [("localhost", 200), ("127.0.0.1:8460", 200), ("faces.example", 200),
                                                  ("evil.example", 400), ("localhost.evil.example", 400)])  # fmt: skip
    def test_names_that_lead_here_are_known_ones(self, app, host, status):
        assert app.test_client().get("/api/health", headers={"Host": host}).status_code == status

    def test_without_accounts_too(self, base, settings):
        alone = make_app(base, replace(settings, accounts="alone")).test_client()
        assert alone.get("/api/productions", headers={"Host": "evil.example"}).status_code == 400
        assert alone.get("/api/productions", headers={"Origin": "http://evil.example"}).status_code == 403


class TestBodies:
    @pytest.mark.parametrize(
        ("raw", "where"),
        [
            (b'{"name": NaN}', "body"), (b'{"name": 1e400}', "body"), (b'{"name": {"a": [1, 99999999999999999999]}}', "/name/a/1"),
            (b'{"name": "a\\u0000b"}', "/name"), (b'{"name": "\\ud800"}', "body"), (b"[" * 2000, "body"), (b'{"name": ' + b"9" * 5000 + b"}", "body"),
        ],
    )  # fmt: skip
    def test_what_nothing_can_hold_is_one_422_with_its_place(self, client, raw, where):
        answer = client.post("/api/productions", data=raw, content_type="application/json", headers=HEADERS)
        assert answer.status_code == 422
        assert where in answer.json["where"]

    @pytest.mark.parametrize("rate", ["1e99999999", "1" * 5000, "1/0", "nan"])
    def test_a_rate_is_looked_at_before_a_number_is_made_of_it(self, client, rate):
        production = client.post("/api/productions", json={"name": "x"}, headers=HEADERS).json["id"]
        raw = b"time,jawOpen\n" + b"".join(b"%d,0.1\n" % n for n in range(9))
        medium = client.post(f"/api/productions/{production}/uploads", data=raw, headers=HEADERS).json["media"]
        file = {"media": medium, "name": "a.csv", "recipe": {"rate": rate}}
        answer = client.post(f"/api/productions/{production}/inspections", json=file, headers=HEADERS)
        assert answer.status_code == 422
        assert "rate" in answer.json["message"]


class TestEditsOfKeys:
    @pytest.mark.parametrize(
        "edit",
        [{"do": []}, {"do": {}}, {"do": "draw", "points": [1, 2]}, {"do": "draw", "points": [[1], [2]]}, {"do": "paste", "copied": []},
         {"do": "paste", "copied": {"jawOpen": 5}}, {"do": "tangents", "kind": []}, {"do": "restore", "to": {}}, {"do": "brush", "way": []},
         {"do": "insert", "frame": "x"}, {"do": "move", "frames": None}, {"do": "slope", "before": []}, {"do": "delete", "channels": {"jawOpen": [[]]}},
         {"do": "delete", "channels": []}],
    )  # fmt: skip
    def test_of_the_wrong_kind_are_refused(self, base, client, edit):
        production = client.post("/api/productions", json={"name": "x"}, headers=HEADERS).json["id"]
        medium = client.post(
            f"/api/productions/{production}/uploads", data=write_table(channels()), headers=HEADERS
        ).json["media"]
        made = {"slate": "1", "performer": "Mara", "files": [{"media": medium, "name": "a.csv"}]}
        take = client.post(f"/api/productions/{production}/takes", json=made, headers=HEADERS).json
        asked = {"version": take["version"], "label": "x", "edit": {"channels": {"jawOpen": []}, **edit}}
        answer = client.post(f"/api/takes/{take['id']}/keys", json=asked, headers=HEADERS)
        assert answer.status_code == 422, answer.json


class TestAnswers:
    @pytest.mark.parametrize("path", ["/", "/api/docs", "/api/productions", "/api/nothing"])
    def test_say_what_a_browser_may_do_with_them(self, client, path):
        answer = client.get(path)
        for name, value in SAID.items():
            assert answer.headers[name] == value
        assert "form-action 'self'" in answer.headers["Content-Security-Policy"]
        if path.startswith("/api/"):
            assert answer.headers["Cache-Control"] == "no-store"

    def test_health_is_that_of_the_database_and_the_queue(self, app, base, monkeypatch):
        client = app.test_client()
        assert client.get("/api/health").json == {"ok": True, "database": True, "queue": True}
        monkeypatch.setattr(base.store, "readiness", lambda: {"database": True, "queue": False})
        answer = client.get("/api/health")
        assert (answer.status_code, answer.json["ok"]) == (503, False)

    def test_a_database_that_is_away_is_said_to_be(self, client, base, monkeypatch):
        def away():
            raise OperationalError("SELECT", {}, ConnectionError("the server closed the connection"))

        monkeypatch.setattr(base.store, "unit", away)
        answer = client.get("/api/productions")
        assert (answer.status_code, answer.headers["Retry-After"]) == (503, "2")
        assert "database is not reached" in answer.json["message"]
