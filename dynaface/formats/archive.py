"""Zip archives that people bring: members are read in pieces, and never more than their limits, whatever their headers say."""

import struct
import zipfile
import zlib
from collections.abc import Iterator
from contextlib import contextmanager

from dynaface.core.errors import InputError, LimitError
from dynaface.formats.stored import Stored

PIECE = 1 << 20
MAX_RATIO, FREE = 200, 16_000_000  # unpacked bytes for each packed one, beyond the first FREE bytes
# What the library raises for archives that are no sound ones; RuntimeError for one with a password.
_DAMAGED = (zipfile.BadZipFile, zlib.error, NotImplementedError, OSError, EOFError, RuntimeError, ValueError, IndexError,
            OverflowError, struct.error)  # fmt: skip


class Archive:
    """An open archive of `size` bytes. The members read so far are counted: an archive that grows too much is refused."""

    def __init__(self, held: zipfile.ZipFile, size: int, most: int) -> None:
        self._held, self._size, self._most = held, size, most
        self._read = 0
        self.members = [i for i in held.infolist() if not i.is_dir() and not i.filename.startswith("__MACOSX")]

    def read(self, member: zipfile.ZipInfo, most: int) -> bytes:
        """The bytes of a member; raises LimitError beyond `most`, beyond what the archive may unpack to, or beyond what bytes
        of its size can honestly hold.
        """
        pieces, length = [], 0
        for piece in self._pieces(member):
            pieces.append(piece)
            length += len(piece)
            self._read += len(piece)
            if length > most:
                raise LimitError(f"{member.filename[:80]} is more than {most / 1e6:.4g} MB unpacked")
            if self._read > self._most or self._read > FREE + MAX_RATIO * self._size:
                raise LimitError(f"the archive of {self._size / 1e6:.1f} MB unpacks to more than {self._read / 1e6:.0f} MB",
                                 hint=f"At most {self._most / 1e6:.0f} MB, {MAX_RATIO} times its size")  # fmt: skip
        return b"".join(pieces)

    def _pieces(self, member: zipfile.ZipInfo) -> Iterator[bytes]:
        try:
            with self._held.open(member) as file:
                while piece := file.read(PIECE):
                    yield piece
        except _DAMAGED as error:
            raise _damaged(f"{member.filename[:80]} in the archive", error) from None


def _damaged(what: str, error: Exception) -> InputError:
    return InputError(f"{what} cannot be read: {str(error)[:100]}", hint="It may be cut off; make it again")


@contextmanager
def open_archive(stored: Stored, most: int) -> Iterator[Archive]:
    """The archive, of which `most` bytes may be unpacked; every damage of it becomes an InputError."""
    with stored.file() as file:
        try:
            held = zipfile.ZipFile(file)
            found = Archive(held, stored.size, most)
        except _DAMAGED as error:
            raise _damaged("the archive", error) from None
        with held:
            yield found
