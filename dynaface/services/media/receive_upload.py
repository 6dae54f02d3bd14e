"""Uploads in pieces: what has come stays, so that a broken connection or a closed page costs one piece."""

from collections.abc import Iterator

from dynaface.core.errors import InputError, LimitError, NotFoundError
from dynaface.core.records.records import Upload
from dynaface.formats.catalogue import FORMATS
from dynaface.services.media.uploaded import note_upload
from dynaface.services.work import Work, allow, identity
from dynaface.store.media import PIECE as READ
from dynaface.store.unit import Unit

MAX_UPLOAD = max(f.limit for f in FORMATS.values())
MAX_AT_ONCE = 2_000_000_000  # bytes of a file that comes in one request; larger ones come in pieces
MAX_BODY = MAX_AT_ONCE + (1 << 20)  # of a request
PIECE = 8 << 20  # bytes at most in one request
INCOMING = 86400.0  # seconds after which bytes that came in and never became a medium are swept
STALE = 7  # days after which an upload that was not ended is given up


def receive_upload(work: Work, production: str, pieces: Iterator[bytes]) -> tuple[str, int]:
    """(medium, size): stores the bytes of a file that comes at once; nothing points to them yet."""
    with work.store.unit() as unit:
        allow(unit, production, work.person)
    media, size = work.media.put(pieces, MAX_AT_ONCE)
    with work.store.unit() as unit:
        note_upload(unit, work, production, media, size)
    return media, size


def begin_upload(work: Work, production: str, size: int) -> Upload:
    """A file of `size` bytes that comes in pieces; raises LimitError for one that is too large for any format."""
    if size < 1:
        raise InputError("the file is empty", hint="Export it again from the device")
    if size > MAX_UPLOAD:
        raise LimitError(
            f"the file is {size / 1e6:.0f} MB", hint=f"At most {MAX_UPLOAD / 1e6:.0f} MB; cut it into several"
        )
    with work.store.unit() as unit:
        allow(unit, production, work.person)
        lost = unit.uploads.stale(STALE)
        for upload in lost:
            unit.uploads.forget(upload.id)
        made = unit.uploads.begin(production, work.person, size)
    for upload in lost:
        _drop(work, upload)
    work.media.sweep(INCOMING)
    return made


def upload_state(work: Work, upload: str) -> Upload:
    """How far an upload has come."""
    with work.store.unit() as unit:
        return _own(work, unit, upload)


def add_piece(work: Work, upload: str, offset: int, data: bytes) -> Upload:
    """Takes the bytes from `offset` on; the upload has a medium once the file is whole.

    With no bytes at the end of a file that has come, it is put together: where that was broken off, it is tried again.
    Raises InputError for a piece that does not begin where the last one ended, or runs over the end.
    """
    if not data:
        with work.store.unit() as unit:
            found = _own(work, unit, upload)
        if offset == found.received == found.size:
            return _finished(work, found)
    if not data or len(data) > PIECE:
        raise InputError(f"a piece has {len(data)} bytes; it must have 1 to {PIECE}")
    media, size = work.media.put_bytes(data)
    with work.store.unit() as unit:
        found = _own(work, unit, upload, lock=True)
        if offset != found.received:
            raise InputError(
                f"the piece begins at byte {offset}, but {found.received} have come", hint="Go on from there"
            )
        if offset + size > found.size:
            raise InputError(f"the piece ends at byte {offset + size}, but the file has {found.size}")
        unit.uploads.add_piece(found, media, size)
        found = _own(work, unit, upload)
    return found if found.received < found.size else _finished(work, found)


def _finished(work: Work, found: Upload) -> Upload:
    if found.media:
        return found
    whole, _ = work.media.put(_joined(work, found), found.size)
    with work.store.unit() as unit:
        unit.uploads.finish(found.id, whole)
    if len(found.pieces) > 1:
        _drop(work, found)
    return upload_state(work, found.id)


def _own(work: Work, unit: Unit, upload: str, lock: bool = False) -> Upload:
    found = unit.uploads.get(identity(upload, "upload"), lock)
    if found is None or found.person != work.person:
        raise NotFoundError("there is no such upload", hint="Begin it again")
    allow(unit, found.production, work.person)
    return found


def _joined(work: Work, upload: Upload) -> Iterator[bytes]:
    for piece in upload.pieces:
        size = work.media.size(piece)
        for start in range(0, size, READ):
            yield work.media.read(piece, start, min(start + READ, size))


def _drop(work: Work, upload: Upload) -> None:
    """Takes the pieces out of the store, but for those that something else is made of."""
    with work.store.unit() as unit:
        free = [p for p in set(upload.pieces) if not unit.sources.uses(p) and not unit.uploads.needs(p)]
    for piece in free:
        work.media.drop(piece)
