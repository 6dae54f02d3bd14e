"""The real server under senders that are silent or slow: they cost others nothing."""

import socket
import threading
import time
import urllib.request
from contextlib import suppress
from types import SimpleNamespace

import pytest

from dynaface import serve as module
from dynaface.web.app import make_app


@pytest.fixture
def server(base, settings, monkeypatch):
    """The server as it is run, on a port of its own."""
    monkeypatch.setattr(module, "web", lambda _: make_app(base, settings))
    made = module.make_server(settings, "127.0.0.1", 0, warm=False)
    thread = threading.Thread(target=made.run, daemon=True)
    thread.start()
    yield made
    made.close()
    made.task_dispatcher.shutdown()


@pytest.fixture
def address(server):
    """(host, port) of it."""
    return "127.0.0.1", server.effective_port


def health(address):
    with urllib.request.urlopen(f"http://{address[0]}:{address[1]}/api/health", timeout=20) as answer:
        return answer.status, dict(answer.headers)


def test_silent_sockets_and_slow_uploads_hold_no_thread(address):
    held = []
    for n in range(220):
        sock = socket.create_connection(address)
        if n < 60:
            sock.sendall(b"GET /api/health HTTP/1.1\r\nHost: localhost\r\n")
        elif n < 80:
            sock.sendall(
                b"POST /api/productions HTTP/1.1\r\nHost: localhost\r\nX-Dynaface: 1\r\nContent-Length: 500000\r\n\r\n{"
            )
        held.append(sock)
    for _ in range(40):
        assert health(address)[0] == 200
        for sock in held[60:80]:
            sock.sendall(b" ")
    for sock in held:
        sock.close()


HEAD = b"GET /api/health HTTP/1.1\r\nHost: localhost\r\n"
UPLOAD = b"PUT /api/uploads/x/0 HTTP/1.1\r\nHost: localhost\r\nContent-Length: 500000\r\n\r\n"


@pytest.mark.parametrize(
    ("begun", "later", "stays"), [(HEAD, b"A", False), (UPLOAD, b"{", False), (UPLOAD, b"{" * 40000, True)]
)
def test_a_head_that_lasts_or_a_body_that_drips_counts_as_silence(server, address, monkeypatch, begun, later, stays):
    start, clock = time.time(), {}
    monkeypatch.setattr(module, "time", SimpleNamespace(time=lambda: clock["now"]))
    with socket.create_connection(address) as sock:
        for seconds, data in ((0.0, begun), (29.0, later)):
            clock["now"] = start + seconds
            sock.sendall(data)
            health(address)  # it came after these bytes
        (channel,) = [c for c in server.active_channels.values() if c.request is not None]
        server.maintenance(start + module.SILENT + 1)
        assert channel.will_close is not stays


def test_the_server_does_not_say_what_it_is(address):
    assert "Server" not in health(address)[1]


def test_a_head_that_is_no_http_is_refused_and_the_server_goes_on(address):
    for rubbish in (
        b"\x00" * 100 + b"\r\n\r\n",
        b"GET / HTTP/9.9\r\n\r\n",
        b"G" * 300_000,
        b"POST / HTTP/1.1\r\nContent-Length: -5\r\n\r\n",
    ):
        with socket.create_connection(address) as sock:
            sock.sendall(rubbish)
            sock.settimeout(5)
            with suppress(OSError):
                assert b"200" not in sock.recv(100).split(b"\r\n")[0]
    assert health(address)[0] == 200
