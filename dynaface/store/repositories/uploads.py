"""Uploads under way."""

from datetime import timedelta
from typing import Any
from uuid import uuid4

from sqlalchemy import Connection, Row, func, select

from dynaface.core.records.records import Upload
from dynaface.store.tables.uploads import uploads

_t = uploads.c


def _upload(r: Row[Any]) -> Upload:
    return Upload(r.id, r.production, r.person, r.size, r.received, tuple(r.pieces), r.media)


class Uploads:
    """Uploads under way."""

    def __init__(self, connection: Connection) -> None:
        self._db = connection

    def begin(self, production: str, person: str, size: int) -> Upload:
        """A new upload of `size` bytes."""
        made = Upload(str(uuid4()), production, person, size, 0, ())
        self._db.execute(uploads.insert().values(id=made.id, production=production, person=person, size=size))
        return made

    def get(self, upload: str, lock: bool = False) -> Upload | None:
        """The upload of this id."""
        query = select(uploads).where(_t.id == upload)
        row = self._db.execute(query.with_for_update() if lock else query).first()
        return _upload(row) if row else None

    def add_piece(self, upload: Upload, media: str, size: int) -> None:
        """A further piece has come."""
        values = {"received": upload.received + size, "pieces": [*upload.pieces, media]}
        self._db.execute(uploads.update().where(_t.id == upload.id).values(**values))

    def needs(self, media: str) -> bool:
        """Whether the bytes are a piece of any upload, or a whole one."""
        query = select(_t.id).where(_t.pieces.contains([media]) | (_t.media == media)).limit(1)
        return self._db.execute(query).first() is not None

    def brought(self, production: str, media: str) -> bool:
        """Whether a file that is whole was brought into the production with these bytes."""
        query = select(_t.id).where(_t.production == production, _t.media == media, _t.media != "").limit(1)
        return self._db.execute(query).first() is not None

    def finish(self, upload: str, media: str) -> None:
        """The file is whole; its pieces are needed no more."""
        self._db.execute(uploads.update().where(_t.id == upload).values(media=media, pieces=[]))

    def forget(self, upload: str) -> None:
        """Drops what is known of an upload."""
        self._db.execute(uploads.delete().where(_t.id == upload))

    def stale(self, days: int) -> list[Upload]:
        """Uploads that were begun more than `days` ago."""
        rows = self._db.execute(select(uploads).where(_t.begun < func.now() - timedelta(days=days)))
        return [_upload(r) for r in rows]
