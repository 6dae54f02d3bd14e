"""Files that commands are given: read, with messages that name them."""

from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any

from dynaface.core.body.skeleton import Motion
from dynaface.core.errors import InputError
from dynaface.core.markers.take import MarkerTake
from dynaface.core.track.footage import Footage
from dynaface.formats.bodies import read_bodies
from dynaface.formats.catalogue import format_of_stored
from dynaface.formats.character_file import open_character
from dynaface.formats.stored import OnDisk


@contextmanager
def naming(path: Path) -> Iterator[None]:
    """Puts the file's name before the message of an InputError that is raised within."""
    try:
        yield
    except InputError as error:
        raise type(error)(f"{path.name}: {error.message}", where=error.where, hint=error.hint) from None


def read_kind(kind: str, path: Path) -> Any:
    """The core object of a file that must be of a kind; raises InputError that names the file."""
    file = OnDisk(path)
    fmt = format_of_stored(file, path.name)
    if fmt.kind != kind:
        raise InputError(f"{path.name} is a {fmt.label}, not {kind}")
    with naming(path):
        return fmt.read_stored(file)


def body_of(path: Path) -> Motion:
    """The body take in a file, the first of several; raises InputError that names the file."""
    with naming(path):
        return read_bodies(path.read_bytes(), path.name)[0].motion


def footage_of(path: Path) -> Footage:
    """The clip in a file; raises InputError."""
    clip: Footage = read_kind("footage", path)
    return clip


def markers_of(path: Path) -> MarkerTake:
    """The take of markers in a file; raises InputError."""
    take: MarkerTake = read_kind("markers", path)
    return take


def opened_character(path: Path, studied: bool) -> Any:
    """The character in a file, its geometry and its glTF; raises InputError that names the file."""
    with naming(path):
        return open_character(path.read_bytes(), path.name, studied)
