"""The whole application as `./dev start` runs it, on a folder of its own that is thrown away, and a client of it."""

import http.client
import json
import os
import subprocess
import sys
import tempfile
import time
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import psycopg

PARTS = {"web": b"serve", "worker": b"worker", "database": b"-D"}
MAX_START = 300.0


@dataclass(frozen=True)
class Running:
    """process: the supervisor; port; log: what it says."""

    process: "subprocess.Popen[bytes]"
    port: int
    log: Path

    def parts(self, kind: str) -> list[int]:
        """Numbers of the processes of a kind, one of PARTS."""
        found = []
        for folder in Path("/proc").glob("[0-9]*"):
            try:
                words = (folder / "cmdline").read_bytes().split(b"\0")
                parent = int((folder / "stat").read_text().rsplit(")", 1)[1].split()[1])
            except (OSError, IndexError, ValueError):
                continue
            if parent == self.process.pid and PARTS[kind] in words:
                found.append(int(folder.name))
        return found

    def rows(self, query: str) -> list[tuple[Any, ...]]:
        """What its database holds, past the application."""
        socket = self.log.parent / "state/postgres/socket"
        with psycopg.connect(host=str(socket), user="dynaface_app", dbname="dynaface") as db:
            return db.execute(query).fetchall()

    def ask(
        self, method: str, path: str, body: Any = None, raw: bytes | None = None, seconds: float = 20
    ) -> tuple[int, Any]:
        """(status, answer); status 0 where none came."""
        connection = http.client.HTTPConnection("127.0.0.1", self.port, timeout=seconds)
        headers = {"X-Dynaface": "1"} | ({"Content-Type": "application/json"} if body is not None else {})
        try:
            connection.request(
                method,
                f"/api{path}",
                raw if raw is not None else json.dumps(body) if body is not None else None,
                headers,
            )
            answer = connection.getresponse()
            data = answer.read()
            return answer.status, json.loads(data) if data else None
        except (OSError, http.client.HTTPException, ValueError):
            return 0, None
        finally:
            connection.close()

    def surely(self, method: str, path: str, body: Any = None, raw: bytes | None = None) -> Any:
        """The answer; raises RuntimeError where it is none of success."""
        status, answer = self.ask(method, path, body, raw, 60)
        if status != 200:
            raise RuntimeError(f"{method} {path}: {status} {answer}")
        return answer


@contextmanager
def running(workers: int = 2) -> Iterator[Running]:
    """The application without the demo; everything ends with the block."""
    with tempfile.TemporaryDirectory(prefix="dynaface-trial.") as folder:
        os.chmod(folder, 0o755)
        log = Path(folder) / "log"
        kept = {k: v for k, v in os.environ.items() if not k.startswith("DYNAFACE_") or k == "DYNAFACE_NODE"}
        environment = {k: v for k, v in kept.items() if k != "PYTHONDONTWRITEBYTECODE"}
        with open(log, "wb") as out:
            command = [
                sys.executable,
                "-m",
                "dynaface",
                "start",
                "--state",
                f"{folder}/state",
                "--workers",
                str(workers),
            ]
            process = subprocess.Popen(command, env=environment | {"DYNAFACE_DEMO": "no"}, stdout=out, stderr=out)
        try:
            yield Running(process, _port(process, log), log)
        finally:
            process.terminate()
            process.wait(90)


def _port(process: "subprocess.Popen[bytes]", log: Path) -> int:
    until = time.monotonic() + MAX_START
    while time.monotonic() < until and process.poll() is None:
        ready = [line for line in log.read_text(errors="replace").splitlines() if "is ready: http" in line]
        if ready:
            return int(ready[0].rsplit(":", 1)[1])
        time.sleep(0.1)
    raise RuntimeError(f"the application did not start: {log.read_text(errors='replace')[-600:]}")
