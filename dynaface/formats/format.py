"""What a format is, and how one is chosen for a file."""

from collections.abc import Callable
from dataclasses import dataclass
from pathlib import PurePath
from typing import Any, Literal

from dynaface.core.errors import InputError, LimitError
from dynaface.formats.stored import Stored, all_of

Kind = Literal["curves", "sound", "body", "character", "footage", "notes", "markers"]


@dataclass(frozen=True)
class Format:
    """One file format.

    detect: whether the first bytes (up to 64 KiB, of an archive the last as well) are of this format, by content alone.
    read: all the bytes -> the core object of its kind; raises InputError with the place in the file.
    read_in_place: the same of a file that may be too large for memory, and that what is read goes on reading; None where
    all bytes are read.
    write: the core object -> bytes, or None where we only read.
    check: the core object -> findings in words, for `dynaface check`.
    limit: the largest file read, in bytes.
    """

    name: str
    label: str
    kind: Kind
    extensions: tuple[str, ...]
    detect: Callable[[bytes], bool]
    read: Callable[[bytes], Any]
    write: Callable[[Any], bytes] | None
    check: Callable[[Any], dict[str, Any]]
    limit: int
    read_in_place: Callable[[Stored], Any] | None = None

    def read_stored(self, file: Stored) -> Any:
        """The core object of a file wherever it lies; raises InputError."""
        return self.read_in_place(file) if self.read_in_place else self.read(all_of(file))


def size_checked(fmt: Format, size: int) -> None:
    """Raises LimitError for a file larger than the format's limit."""
    if size > fmt.limit:
        raise LimitError(
            f"this {fmt.label} is {size / 1e6:.0f} MB",
            hint=f"The limit is {fmt.limit / 1e6:.0f} MB; cut it into several recordings",
        )


def choose(formats: dict[str, Format], head: bytes, filename: str) -> Format:
    """The format of a file by its first bytes, its extension only where content leaves a choice or says nothing."""
    if not head:
        raise InputError(f"{filename} is empty", hint="Export it again from the device")
    claims = [f for f in formats.values() if f.detect(head)]
    extension = PurePath(filename).suffix.lower()
    by_extension = [f for f in formats.values() if extension in f.extensions]
    both = [f for f in claims if f in by_extension]
    if both or claims:
        return (both or claims)[0]
    if by_extension:
        fmt = by_extension[0]
        raise InputError(f"{filename} is named like a {fmt.label} but its content is something else",
                         hint=f"Expected: {', '.join(sorted({f.label for f in formats.values()}))}")  # fmt: skip
    raise InputError(
        f"{filename} is of no kind that can be read",
        hint=f"Bring a {', '.join(sorted({f.label for f in formats.values()}))}",
    )
