"""Starts the parts in their order, watches over them, and stops them in the opposite one."""

import os
import signal
import socket
import sys
import time
import urllib.error
import urllib.request
from collections.abc import Iterator, Mapping, Sequence
from contextlib import contextmanager
from pathlib import Path
from types import FrameType

from dynaface.core.errors import ConflictError, InputError
from dynaface.supervise.cluster import Cluster
from dynaface.supervise.folder import held, open_folder
from dynaface.supervise.parts import Part, say

DATABASE = "dynaface"
USUAL_PORT, LIVE_PORT = 8460, 8461
EACH = 0.2  # seconds between looks
FIRST, DATABASE_FIRST = 300.0, 60.0  # seconds for the first start: the demo is made in it
QUICK = ("fsync=off", "synchronous_commit=off", "full_page_writes=off")  # for data that nobody keeps


@contextmanager
def running_database(
    state: Path, databases: Sequence[str] = (DATABASE,), quick: bool = False
) -> Iterator[tuple[Cluster, Part]]:
    """(the cluster of a state folder, the part that runs it), up and with its databases; stopped at the end."""
    cluster = Cluster(state / "postgres", QUICK if quick else ())
    part = Part("the database", cluster.command(), identity=cluster.identity(), stop=signal.SIGINT, patience=30.0,
                before=cluster.prepare, output=str(cluster.log))  # fmt: skip
    part.start()
    try:
        _await_database(cluster, part)
        for name in databases:
            cluster.make_database(name)
        yield cluster, part
    finally:
        part.end()


def _await_database(cluster: Cluster, part: Part) -> None:
    until = time.monotonic() + DATABASE_FIRST
    while not cluster.answers():
        if not part.up or time.monotonic() > until:
            last = cluster.log.read_text(errors="replace").splitlines()[-3:] if cluster.log.exists() else []
            raise InputError(f"the database did not start: {' / '.join(last)}", where=str(cluster.log),
                             hint="Is the disk full? The log says more")  # fmt: skip
        time.sleep(0.1)


def with_database(state: Path, command: Sequence[str], databases: Sequence[str], quick: bool) -> int:
    """Runs a command with the database of a state folder; one that is running already is used. Gives its exit status."""
    state = open_folder(state)
    try:
        with held(state, wait=0.0), running_database(state, databases, quick) as (cluster, _):
            return _run(command, cluster, state)
    except ConflictError:
        cluster = Cluster(state / "postgres")
        for name in databases:
            cluster.make_database(name)
        return _run(command, cluster, state)


def _run(command: Sequence[str], cluster: Cluster, state: Path) -> int:
    part = Part(command[0], command, environment(cluster, state), stop=signal.SIGTERM)
    part.start()
    assert part.process is not None
    try:
        return part.process.wait()
    finally:
        part.end()


def environment(cluster: Cluster, state: Path) -> dict[str, str]:
    """What the other parts are told: where everything is, unless who started us has said so."""
    own = {"DYNAFACE_DATABASE": cluster.url(DATABASE), "DYNAFACE_MEDIA": str(state / "media"),
           "DYNAFACE_SECRET_FILE": str(state / "secret"), "DYNAFACE_LIVE_FOLDER": str(state / "live")}  # fmt: skip
    return own | {k: v for k, v in os.environ.items() if k != "DYNAFACE_DATABASE"}


def free_port(host: str, wanted: int | None, usual: int = USUAL_PORT) -> int:
    """The wanted port, or the usual one, or any; raises ConflictError where the wanted one is taken."""
    for port in (wanted,) if wanted is not None else (usual, 0):
        with socket.socket() as sock:
            sock.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
            try:
                sock.bind((host, port))
                return int(sock.getsockname()[1])
            except OSError as error:
                reason = error.strerror
    raise ConflictError(f"the server can't be at {host}:{wanted}: {reason}", hint="Set DYNAFACE_PORT to a free port")


class Supervisor:
    """The database, the web server and the job workers of a state folder."""

    def __init__(self, state: Path, host: str, port: int | None, workers: int) -> None:
        self._state, self._host, self._wanted, self._workers = state, host, port, workers
        self._stopping = False

    def run(self) -> None:
        """Until a signal tells it to stop."""
        for number in (signal.SIGINT, signal.SIGTERM, signal.SIGHUP):
            signal.signal(number, self._stop)
        state = open_folder(self._state)
        with held(state, say=say):
            port = free_port(self._host, self._wanted)
            with running_database(state) as (cluster, database):
                known = environment(cluster, state)
                known.setdefault("DYNAFACE_LIVE_PORT", str(free_port(self._host, None, LIVE_PORT)))
                self._run_others(known, database, port)

    def _run_others(self, known: Mapping[str, str], database: Part, port: int) -> None:
        program = [sys.executable, "-m", "dynaface"]
        serve = [*program, "serve", "--host", self._host, "--port", str(port)]
        web = Part("the web server", [*serve, "--prepare"], known)
        feeds = Part("the process of feeds", [*program, "live", "--host", self._host], known)
        others = [
            web,
            feeds,
            *(Part(f"job worker {n}", [*program, "worker"], known) for n in range(1, self._workers + 1)),
        ]
        try:
            self._begin(web, port)
            web.command = serve  # started again it finds everything prepared
            for worker in others[1:]:
                worker.start()
            if not self._stopping:
                print(f"Dynaface is ready: http://{self._host}:{port}", flush=True)
                say("press Ctrl+C to stop")
            while not self._stopping:
                for part in (database, *others):
                    part.watch()
                time.sleep(EACH)
        finally:
            for part in reversed(others):
                part.end()

    def _begin(self, web: Part, port: int) -> None:
        web.start()
        until = time.monotonic() + FIRST
        address = f"http://{'127.0.0.1' if self._host == '0.0.0.0' else self._host}:{port}/api/health"
        while not self._stopping and not (_healthy(address) and web.up):
            if not web.up or time.monotonic() > until:
                raise InputError(
                    f"the web server did not start: it {web.how_it_ended()}", hint="What it said stands above"
                )
            time.sleep(EACH)

    def _stop(self, number: int, frame: FrameType | None) -> None:
        say("stopping already" if self._stopping else "stopping")
        self._stopping = True


def _healthy(address: str) -> bool:
    try:
        with urllib.request.urlopen(address, timeout=5) as answer:
            return bool(answer.status == 200)
    except (OSError, urllib.error.URLError):
        return False
