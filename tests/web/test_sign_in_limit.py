"""Ten sign-ins a minute for each client, also behind a proxy; nobody escapes by a header of their own."""

from dataclasses import replace

import pytest

from dynaface.web.app import make_app
from dynaface.web.people import limiter

HEADERS = {"X-Dynaface": "1"}
WRONG = {"name": "nobody", "password": "a wrong password"}


@pytest.fixture
def clients(base, settings):
    """A test client of an application behind so many trusted proxies."""

    def made(proxies: int):
        app = make_app(base, replace(settings, accounts="password", proxies=proxies))
        limiter.reset()
        return app.test_client()

    yield made
    limiter.reset()


def statuses(client, times: int, seen_by_proxy: str) -> list[int]:
    """The answers to wrong passwords whose X-Forwarded-For is given."""
    headers = HEADERS | {"X-Forwarded-For": seen_by_proxy}
    return [client.post("/api/session", json=WRONG, headers=headers).status_code for _ in range(times)]


def test_behind_a_proxy_each_client_has_a_limit_of_its_own(clients):
    client = clients(1)
    assert statuses(client, 11, "203.0.113.5") == [403] * 10 + [429]
    assert statuses(client, 1, "203.0.113.6") == [403]


def test_behind_a_proxy_a_client_cannot_invent_addresses(clients):
    client = clients(1)
    invented = [statuses(client, 1, f"198.51.100.{n}, 203.0.113.5")[0] for n in range(11)]
    assert invented == [403] * 10 + [429]


def test_without_a_proxy_the_header_means_nothing(clients):
    client = clients(0)
    assert [statuses(client, 1, f"198.51.100.{n}")[0] for n in range(11)] == [403] * 10 + [429]
