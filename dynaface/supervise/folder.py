"""The state folder: one Dynaface at a time works in it."""

import fcntl
import os
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path

from dynaface.core.errors import ConflictError, InputError

WAIT = 45.0  # seconds for which one that is just stopping is waited for


def open_folder(folder: Path) -> Path:
    """The folder, made where there is none; raises InputError where nothing can be written in it."""
    try:
        folder.mkdir(parents=True, exist_ok=True)
        probe = folder / f".probe-{os.getpid()}"
        probe.write_bytes(bytes(4096))
        probe.unlink()
    except OSError as error:
        raise InputError(f"nothing can be written in {folder}: {error.strerror}",
                         hint="Make room, or set DYNAFACE_STATE to a folder of yours") from None  # fmt: skip
    return folder


@contextmanager
def held(folder: Path, wait: float = WAIT, say: Callable[[str], None] = lambda words: None) -> Iterator[None]:
    """Holds the folder while the block runs; the hold ends with the process, however it ends. Raises ConflictError where
    another holds it longer than `wait` seconds.
    """
    with open(folder / "lock", "a+") as file:
        until, told = time.monotonic() + wait, False
        while True:
            try:
                fcntl.flock(file, fcntl.LOCK_EX | fcntl.LOCK_NB)
                break
            except BlockingIOError:
                file.seek(0)
                who = file.read().strip() or "unknown"
                if time.monotonic() > until:
                    raise ConflictError(f"another Dynaface (process {who}) works in {folder}",
                                        hint="Stop it first, or set DYNAFACE_STATE to another folder") from None  # fmt: skip
                if not told:
                    say(f"waiting for another Dynaface (process {who}) to stop")
                    told = True
                time.sleep(0.2)
        file.seek(0)
        file.truncate()
        file.write(str(os.getpid()))
        file.flush()
        yield
