"""The media store: bytes under their SHA-256, in a local folder or any object store that fsspec reaches."""

import hashlib
import os
import re
import time
from collections.abc import Iterator
from dataclasses import dataclass
from functools import partial
from typing import BinaryIO
from uuid import uuid4

import fsspec
from fsspec.implementations.local import LocalFileSystem

from dynaface.core.errors import LimitError, NotFoundError

_HASH = re.compile(r"^[0-9a-f]{64}$")
PIECE = 1 << 20


class Media:
    """Content-addressed bytes. A name from a client never becomes part of a path: only a checked hash does."""

    def __init__(self, root: str) -> None:
        self._files, self._root = fsspec.core.url_to_fs(root)
        self._files.makedirs(f"{self._root}/incoming", exist_ok=True)
        if isinstance(self._files, LocalFileSystem):
            os.chmod(self._root, 0o700)  # whoever else has an account on the machine sees nothing of it

    def _path(self, media: str) -> str:
        if not _HASH.match(media):
            raise NotFoundError(f"there is no medium {media[:80]!r}")
        return f"{self._root}/{media[:2]}/{media}"

    def put(self, pieces: Iterator[bytes], limit: int) -> tuple[str, int]:
        """(hash, size) of the stored pieces; nothing is kept when they are more than `limit` bytes."""
        digest, size = hashlib.sha256(), 0
        incoming = f"{self._root}/incoming/{uuid4()}"
        try:
            with self._files.open(incoming, "wb") as out:
                for piece in pieces:
                    size += len(piece)
                    if size > limit:
                        raise LimitError(f"the file is larger than {limit / 1e6:.0f} MB", hint="Cut it into several")
                    digest.update(piece)
                    out.write(piece)
            media = digest.hexdigest()
            path = self._path(media)
            if not self._files.exists(path):
                self._files.makedirs(path.rsplit("/", 1)[0], exist_ok=True)
                self._files.mv(incoming, path)
            return media, size
        finally:
            if self._files.exists(incoming):
                self._files.rm(incoming)

    def put_bytes(self, data: bytes) -> tuple[str, int]:
        """(hash, size) of stored bytes."""
        return self.put(iter([data]), max(len(data), 1))

    def put_file(self, file: BinaryIO) -> tuple[str, int]:
        """(hash, size) of all that stands in a file."""
        size = file.seek(0, os.SEEK_END)
        file.seek(0)
        return self.put(iter(partial(file.read, PIECE), b""), max(size, 1))

    def sweep(self, seconds: float) -> int:
        """Takes away what began to come in more than `seconds` ago and never became a medium; gives how many there were."""
        swept = 0
        for path in self._files.ls(f"{self._root}/incoming", detail=False):
            if time.time() - self._files.modified(path).timestamp() > seconds:
                self._files.rm(path)
                swept += 1
        return swept

    def size(self, media: str) -> int:
        """Bytes of a medium; raises NotFoundError."""
        path = self._path(media)
        if not self._files.exists(path):
            raise NotFoundError("this medium is not in the store")
        return int(self._files.size(path))

    def drop(self, media: str) -> None:
        """Takes the bytes out of the store, if they are there."""
        path = self._path(media)
        if self._files.exists(path):
            self._files.rm(path)

    def get(self, media: str) -> bytes:
        """All the bytes; raises NotFoundError."""
        self.size(media)
        data: bytes = self._files.cat_file(self._path(media))
        return data

    def open(self, media: str) -> "Medium":
        """The medium, to be read in parts; raises NotFoundError."""
        return Medium(media, self.size(media), self)

    def file(self, media: str) -> BinaryIO:
        """The medium as a file that is read and sought in; raises NotFoundError."""
        self.size(media)
        opened: BinaryIO = self._files.open(self._path(media), "rb")
        return opened

    def read(self, media: str, start: int, stop: int) -> bytes:
        """Bytes start..stop - 1; no others are read."""
        data: bytes = self._files.cat_file(self._path(media), start=start, end=stop)
        return data


@dataclass(frozen=True)
class Medium:
    """Bytes in the store, `size` of them under their hash."""

    hash: str
    size: int
    store: Media

    def file(self) -> BinaryIO:
        """The bytes as a file, opened anew."""
        return self.store.file(self.hash)

    def pieces(self, start: int, stop: int) -> Iterator[bytes]:
        """Bytes start..stop - 1 in pieces of at most PIECE, each read when it is asked for."""
        for at in range(start, stop, PIECE):
            yield self.store.read(self.hash, at, min(at + PIECE, stop))
