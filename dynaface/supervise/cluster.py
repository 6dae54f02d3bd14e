"""A PostgreSQL cluster of our own: in a folder, reached through a Unix socket that only its owner can open."""

import grp
import hashlib
import os
import pwd
import shutil
import signal
import subprocess
import tempfile
import time
from collections.abc import Sequence
from pathlib import Path
from typing import Any

import psycopg
from psycopg import sql

from dynaface.core.errors import InputError

SUPERUSER, ROLE = "dynaface", "dynaface_app"  # who owns the cluster, and who the application is: no superuser
SERVER_USER = "postgres"  # PostgreSQL refuses to run as root
MAX_SOCKET = 90  # letters of a path to a socket's folder; the system takes little more
STOPPING = 30.0  # seconds until a server that was told to stop is made to


def binaries() -> Path:
    """The newest PostgreSQL that Debian has installed."""
    found = sorted(Path("/usr/lib/postgresql").glob("*/bin/postgres"), key=lambda p: int(p.parts[-3]))
    if not found:
        raise InputError("PostgreSQL is not installed", hint="Install the Debian package postgresql")
    return found[-1].parent


class Cluster:
    """The cluster in a folder; `options` are further settings of the server."""

    def __init__(self, folder: Path, options: Sequence[str] = ()) -> None:
        self._as_root = os.geteuid() == 0
        self.user = SERVER_USER if self._as_root else pwd.getpwuid(os.geteuid()).pw_name
        self.folder = self._reachable(folder)
        self.data, self.log, self._options = self.folder / "data", self.folder / "log", options
        self._socket = self._socket_folder()

    def _reachable(self, folder: Path) -> Path:
        """The folder, or one elsewhere where the server's user cannot walk to it: in root's own tree."""
        folder.mkdir(parents=True, exist_ok=True)
        if self._as_root:
            shutil.chown(folder, self.user)
            if self._run(["test", "-w", str(folder)]).returncode:
                folder = Path("/var/lib/dynaface") / _short(folder)
                folder.mkdir(parents=True, exist_ok=True)
                shutil.chown(folder, self.user)
        return folder

    def _socket_folder(self) -> Path:
        folder = self.folder / "socket"
        if len(str(folder)) > MAX_SOCKET:
            folder = Path(tempfile.gettempdir()) / f"dynaface-{os.geteuid()}-{_short(self.folder)}"
        folder.mkdir(mode=0o700, exist_ok=True)
        owner = pwd.getpwnam(self.user).pw_uid
        if folder.is_symlink() or folder.stat().st_uid not in (os.geteuid(), owner):
            raise InputError(f"{folder} belongs to somebody else", hint="Set DYNAFACE_STATE to a shorter path")
        folder.chmod(0o700)
        if self._as_root:
            shutil.chown(folder, self.user)
        return folder

    def _run(self, command: Sequence[str]) -> "subprocess.CompletedProcess[str]":
        return subprocess.run(command, **self.identity(), capture_output=True, text=True, check=False)

    def identity(self) -> dict[str, Any]:
        """Arguments of a process that runs as the server's user."""
        if not self._as_root:
            return {}
        return {"user": self.user, "group": grp.getgrgid(pwd.getpwnam(self.user).pw_gid).gr_name, "extra_groups": []}

    def prepare(self) -> None:
        """Makes the cluster where there is none, says who may connect, and clears what a killed server left behind."""
        if not (self.data / "PG_VERSION").exists():
            made = self._run([str(binaries() / "initdb"), "-D", str(self.data), "-U", SUPERUSER, "--auth=peer",
                              "--encoding=UTF8", "--locale=C.UTF-8"])  # fmt: skip
            if made.returncode:
                last = (made.stderr or made.stdout).strip().splitlines()[-1:]
                raise InputError(f"no database could be made in {self.data}: {' '.join(last)}",
                                 hint="Is the disk full, or the folder read-only?")  # fmt: skip
        own = {self.user, pwd.getpwuid(os.geteuid()).pw_name}
        self._write(
            "pg_ident.conf", "".join(f"own {who} {role}\n" for who in sorted(own) for role in (SUPERUSER, ROLE))
        )
        self._write("pg_hba.conf", "local all all peer map=own\n")
        self._clear_stale()

    def _write(self, name: str, text: str) -> None:
        file = self.data / name
        file.write_text(text)
        file.chmod(0o600)
        if self._as_root:
            shutil.chown(file, self.user)

    def _clear_stale(self) -> None:
        """A server that outlived who started it is stopped; the note of one that is gone is taken away."""
        note = self.data / "postmaster.pid"
        try:
            number = int(note.read_text().splitlines()[0])
        except (OSError, ValueError, IndexError):
            note.unlink(missing_ok=True)
            return
        if not self._is_ours(number):
            note.unlink(missing_ok=True)
            return
        os.kill(number, signal.SIGINT)
        until = time.monotonic() + STOPPING
        while self._is_ours(number):
            if time.monotonic() > until:
                os.kill(number, signal.SIGQUIT)
            time.sleep(0.1)

    def _is_ours(self, number: int) -> bool:
        """Whether a process is a server of this folder: its number may belong to another by now."""
        try:
            words = Path(f"/proc/{number}/cmdline").read_bytes().split(b"\0")
        except OSError:
            return False
        return b"postgres" in words[0] and os.fsencode(self.data) in words

    def command(self) -> list[str]:
        """The server in the foreground, without any address in a network."""
        settings = (
            "listen_addresses=",
            f"unix_socket_directories={self._socket}",
            "unix_socket_permissions=0700",
            *self._options,
        )
        return [str(binaries() / "postgres"), "-D", str(self.data), *(w for s in settings for w in ("-c", s))]

    def url(self, database: str) -> str:
        """SQLAlchemy's address of a database, as the application."""
        return f"postgresql+psycopg://{ROLE}@/{database}?host={self._socket}"

    def answers(self) -> bool:
        """Whether the server takes connections."""
        try:
            self._connect("postgres").close()
        except psycopg.OperationalError:
            return False
        return True

    def _connect(self, database: str) -> "psycopg.Connection[tuple[object, ...]]":
        return psycopg.connect(
            host=str(self._socket), user=SUPERUSER, dbname=database, autocommit=True, connect_timeout=5
        )

    def make_database(self, name: str) -> None:
        """The database, owned by the application's role; one of an earlier release is handed over to it."""
        with self._connect("postgres") as db:
            if not db.execute("SELECT 1 FROM pg_roles WHERE rolname = %s", (ROLE,)).fetchone():
                db.execute(
                    sql.SQL("CREATE ROLE {} LOGIN NOSUPERUSER NOCREATEDB NOCREATEROLE").format(sql.Identifier(ROLE))
                )
            if not db.execute("SELECT 1 FROM pg_database WHERE datname = %s", (name,)).fetchone():
                db.execute(sql.SQL("CREATE DATABASE {} OWNER {}").format(sql.Identifier(name), sql.Identifier(ROLE)))
                return
            owner = db.execute("SELECT pg_get_userbyid(datdba) FROM pg_database WHERE datname = %s", (name,)).fetchone()
            if owner == (ROLE,):
                return
            db.execute(sql.SQL("ALTER DATABASE {} OWNER TO {}").format(sql.Identifier(name), sql.Identifier(ROLE)))
        with self._connect(name) as db:
            db.execute(_HAND_OVER)


def _short(folder: Path) -> str:
    return hashlib.sha256(str(folder).encode()).hexdigest()[:12]


# Each table, function and type of ours gets the application's role for its owner.
_HAND_OVER = f"""
DO $$ DECLARE what text; BEGIN
  FOR what IN
    SELECT format('ALTER TABLE %s OWNER TO {ROLE}', c.oid::regclass) FROM pg_class c
      WHERE c.relnamespace = 'public'::regnamespace AND c.relkind IN ('r', 'v', 'p')
    UNION ALL SELECT format('ALTER ROUTINE %s OWNER TO {ROLE}', p.oid::regprocedure) FROM pg_proc p
      WHERE p.pronamespace = 'public'::regnamespace
    UNION ALL SELECT format('ALTER TYPE %s OWNER TO {ROLE}', t.oid::regtype) FROM pg_type t
      WHERE t.typnamespace = 'public'::regnamespace AND (t.typtype IN ('e', 'd') OR (t.typtype = 'c' AND EXISTS
        (SELECT 1 FROM pg_class c WHERE c.oid = t.typrelid AND c.relkind = 'c')))
  LOOP EXECUTE what; END LOOP; END $$
"""
