"""Files that commands are given: read, with messages that name them."""

from pathlib import Path
from typing import Any

from dynaface.core.errors import InputError
from dynaface.formats.catalogue import format_of


def read_kind(kind: str, path: Path) -> Any:
    """The core object of a file that must be of a kind; raises InputError that names the file."""
    data = path.read_bytes()
    fmt = format_of(data, path.name)
    if fmt.kind != kind:
        raise InputError(f"{path.name} is a {fmt.label}, not {kind}")
    try:
        return fmt.read(data)
    except InputError as error:
        raise type(error)(f"{path.name}: {error.message}", where=error.where, hint=error.hint) from None
