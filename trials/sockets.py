"""Sockets that are silent and uploads that are slow: what they cost others. Prints how long health takes, with and without them."""

import socket
import statistics
import time

from trials.running import Running, running

SILENT, SLOW, ASKED = 200, 20, 200


def _held(app: Running) -> list[socket.socket]:
    """Half-written requests and uploads of which a byte has come."""
    out = []
    for n in range(SILENT + SLOW):
        sock = socket.create_connection(("127.0.0.1", app.port))
        head = b"GET /api/health HTTP/1.1\r\nHost: localhost\r\n"
        if n >= SILENT:
            head = (
                b"PUT /api/uploads/x/0 HTTP/1.1\r\nHost: localhost\r\nX-Dynaface: 1\r\nContent-Length: 8000000\r\n\r\n{"
            )
        if n % 2 or n >= SILENT:
            sock.sendall(head)
        out.append(sock)
    return out


def _health(app: Running, slow: list[socket.socket]) -> list[float]:
    """(ASKED,) milliseconds until health was answered, while the slow ones send a byte each time."""
    took = []
    for _ in range(ASKED):
        begun = time.perf_counter()
        status, _answer = app.ask("GET", "/health")
        took.append((time.perf_counter() - begun) * 1000 if status == 200 else float("inf"))
        for sock in slow:
            sock.sendall(b" ")
    return sorted(took)


def run() -> dict[str, tuple[float, float]]:
    """words -> (median, 95 %) milliseconds."""
    with running(workers=0) as app:
        alone = _health(app, [])
        held = _held(app)
        beside = _health(app, held[SILENT:])
        for sock in held:
            sock.close()
    p95 = round(0.95 * ASKED) - 1
    return {
        "alone": (statistics.median(alone), alone[p95]),
        f"beside {SILENT} silent and {SLOW} slow": (statistics.median(beside), beside[p95]),
    }


if __name__ == "__main__":
    for words, (median, most) in run().items():
        print(f"health {words}: median {median:.1f} ms, 95 % {most:.1f} ms")
