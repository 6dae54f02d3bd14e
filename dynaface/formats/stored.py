"""Files wherever they lie: opened to be read in parts, so that a long clip is never in memory as a whole."""

import io
from dataclasses import dataclass
from pathlib import Path
from typing import BinaryIO, Protocol


class Stored(Protocol):
    """A file of `size` bytes."""

    @property
    def size(self) -> int:
        """Bytes."""

    def file(self) -> BinaryIO:
        """The file opened anew, at its beginning, to be read and sought in; who opens it closes it."""


@dataclass(frozen=True)
class Held:
    """Bytes that are in memory already."""

    data: bytes

    @property
    def size(self) -> int:
        """Bytes."""
        return len(self.data)

    def file(self) -> BinaryIO:
        """The bytes as a file."""
        return io.BytesIO(self.data)


@dataclass(frozen=True)
class OnDisk:
    """A file in a folder."""

    path: Path

    @property
    def size(self) -> int:
        """Bytes."""
        return self.path.stat().st_size

    def file(self) -> BinaryIO:
        """The file, opened."""
        return self.path.open("rb")


def all_of(stored: Stored) -> bytes:
    """All the bytes."""
    with stored.file() as file:
        return file.read()
