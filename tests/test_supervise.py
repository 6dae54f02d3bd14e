"""What keeps the application up: a cluster of its owner's only, parts that are started again, one at a time in a folder."""

import os
import signal
import socket
import subprocess
import sys
import time

import psycopg
import pytest

from dynaface.core.errors import ConflictError, InputError
from dynaface.supervise.cluster import ROLE, SUPERUSER, Cluster
from dynaface.supervise.folder import held, open_folder
from dynaface.supervise.parts import PAUSES, Part
from dynaface.supervise.supervisor import free_port, running_database, with_database

FOREVER = [sys.executable, "-c", "import time; time.sleep(600)"]


@pytest.fixture(scope="module")
def state(tmp_path_factory):
    """A state folder that the database's user can walk to."""
    folder = tmp_path_factory.mktemp("state")
    for above in (folder, *list(folder.parents)[:3]):
        if above.owner() != "root" or os.geteuid() == 0:
            above.chmod(above.stat().st_mode | 0o055)
    return folder


@pytest.fixture(scope="module")
def cluster(state):
    """A cluster that runs."""
    with running_database(state, ("dynaface", "other"), quick=True) as (made, _):
        yield made


def until(what, seconds=20.0):
    """Waits for something; fails where it does not come."""
    end = time.monotonic() + seconds
    while not what():
        assert time.monotonic() < end
        time.sleep(0.05)


class TestCluster:
    def test_only_its_owner_can_open_the_socket(self, cluster):
        folder = cluster.folder / "socket"
        assert folder.stat().st_mode & 0o077 == 0
        assert not any(
            "listen" in w and "=" in w and w.split("=")[1] for w in cluster.command() if w.startswith("listen")
        )

    def test_the_application_is_no_superuser(self, cluster):
        with psycopg.connect(host=str(cluster.folder / "socket"), user=ROLE, dbname="dynaface") as db:
            assert db.execute(
                "SELECT rolsuper, rolcreaterole, rolcreatedb FROM pg_roles WHERE rolname = %s", (ROLE,)
            ).fetchone() == (False, False, False)
            db.execute("CREATE TABLE mine (n int)")  # it owns its database
            with pytest.raises(psycopg.errors.InsufficientPrivilege):
                db.execute("COPY (SELECT 1) TO PROGRAM 'true'")

    def test_other_names_are_refused(self, cluster):
        with pytest.raises(psycopg.OperationalError):
            psycopg.connect(host=str(cluster.folder / "socket"), user="postgres", dbname="dynaface")

    def test_what_an_earlier_release_owned_is_handed_over(self, cluster):
        with cluster._connect("postgres") as db:
            db.execute(f"CREATE DATABASE earlier OWNER {SUPERUSER}")
        with cluster._connect("earlier") as db:
            db.execute(
                "CREATE TYPE mood AS ENUM ('calm'); CREATE TABLE takes (n serial, m mood); INSERT INTO takes (m) VALUES ('calm')"
            )
        cluster.make_database("earlier")
        with psycopg.connect(host=str(cluster.folder / "socket"), user=ROLE, dbname="earlier") as db:
            db.execute("ALTER TABLE takes ADD COLUMN more int")
            db.execute("INSERT INTO takes (m) VALUES ('calm')")
            assert db.execute("SELECT count(*) FROM takes").fetchone() == (2,)

    def test_a_note_of_a_server_that_is_gone_is_no_hindrance(self, tmp_path):
        made = Cluster(tmp_path / "pg") if os.geteuid() else None
        if made is None:
            pytest.skip("as root the folder lies elsewhere")
        made.prepare()
        (made.data / "postmaster.pid").write_text(f"{os.getpid()}\n/somewhere\n")
        made.prepare()
        assert not (made.data / "postmaster.pid").exists()

    def test_a_command_runs_beside_a_database_that_runs_already(self, cluster, state, tmp_path):
        out = tmp_path / "url"
        with held(state, wait=0.0):
            code = with_database(
                state, ["bash", "-c", f"echo $DYNAFACE_DATABASE > {out}; exit 7"], ("dynaface",), False
            )
        assert code == 7
        assert out.read_text().strip() == cluster.url("dynaface")


class TestParts:
    def test_one_that_ends_is_started_again_after_a_pause(self, capfd):
        part = Part("the lamp", FOREVER)
        part.start()
        os.kill(part.process.pid, signal.SIGKILL)
        until(lambda: not part.up)
        part.watch()
        assert "the lamp was ended by SIGKILL; it is started again" in capfd.readouterr().err
        assert not part.up
        until(lambda: (part.watch(), part.up)[1])
        part.end()

    def test_the_pauses_grow_while_it_fails_at_once(self):
        part = Part("the lamp", ["false"])
        part.start()
        waited = []
        for _ in range(4):
            until(lambda: not part.up)
            part.watch()
            waited.append(part.due - time.monotonic())
            part.due = time.monotonic()
            part.watch()
        part.end()
        assert [round(w, 1) for w in waited] == [pytest.approx(p, abs=0.2) for p in PAUSES[1:5]]

    def test_one_that_does_not_stop_is_killed(self, capfd):
        deaf = "import signal, time; signal.signal(signal.SIGTERM, signal.SIG_IGN); print('deaf', flush=True); time.sleep(600)"
        part = Part("the lamp", [sys.executable, "-c", deaf], patience=0.2)
        part.start()
        until(lambda: "deaf" in capfd.readouterr().out)
        part.end()
        assert not part.up

    def test_parts_end_with_who_started_them_however_that_ends(self, tmp_path):
        program = ("import sys, time; from dynaface.supervise.parts import Part\n"
                   f"part = Part('x', {FOREVER!r}); part.start(); print(part.process.pid, flush=True); time.sleep(600)")  # fmt: skip
        parent = subprocess.Popen([sys.executable, "-c", program], stdout=subprocess.PIPE, text=True)
        child = int(parent.stdout.readline())
        os.kill(parent.pid, signal.SIGKILL)
        parent.wait()

        def gone():
            try:
                with open(f"/proc/{child}/stat") as stat:
                    return stat.read().rsplit(")", 1)[1].split()[0] == "Z"
            except OSError:
                return True

        until(gone)


class TestFolder:
    def test_is_held_by_one_at_a_time(self, tmp_path):
        with held(tmp_path, wait=0.0):
            program = f"from dynaface.supervise.folder import held; from pathlib import Path\nwith held(Path({str(tmp_path)!r}), wait=0.3): pass"
            other = subprocess.run([sys.executable, "-c", program], capture_output=True, text=True, check=False)
            assert f"another Dynaface (process {os.getpid()}) works in" in other.stderr
        with held(tmp_path, wait=0.0):
            pass

    def test_one_that_is_stopping_is_waited_for(self, tmp_path):
        program = f"from dynaface.supervise.folder import held; from pathlib import Path\nimport time\nwith held(Path({str(tmp_path)!r})): print('held', flush=True); time.sleep(1)"
        other = subprocess.Popen([sys.executable, "-c", program], stdout=subprocess.PIPE, text=True)
        assert other.stdout.readline() == "held\n"
        said = []
        with held(tmp_path, wait=20, say=said.append):
            assert other.wait(5) == 0
        assert said == [f"waiting for another Dynaface (process {other.pid}) to stop"]

    def test_that_cannot_be_written_is_said_with_its_path(self, tmp_path):
        blocked = tmp_path / "file"
        blocked.write_text("")
        with pytest.raises(InputError, match="nothing can be written in"):
            open_folder(blocked / "state")


def test_a_taken_port_is_said_before_anything_runs():
    with socket.socket() as sock:
        sock.bind(("127.0.0.1", 0))
        sock.listen()
        port = sock.getsockname()[1]
        with pytest.raises(ConflictError, match=f"127.0.0.1:{port}"):
            free_port("127.0.0.1", port)
    assert free_port("127.0.0.1", port) == port
