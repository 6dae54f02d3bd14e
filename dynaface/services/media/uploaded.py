"""Bytes that were brought into a production: nobody uses a medium by its hash alone."""

from dynaface.core.errors import NotFoundError
from dynaface.formats.stored import all_of
from dynaface.services.work import Work
from dynaface.store.media import Medium
from dynaface.store.unit import Unit


def keep_upload(work: Work, production: str, data: bytes) -> str:
    """Stores bytes as an upload of the production and gives their medium; the caller has checked that the person may."""
    medium, size = work.media.put_bytes(data)
    with work.store.unit() as unit:
        note_upload(unit, work, production, medium, size)
    return medium


def note_upload(unit: Unit, work: Work, production: str, medium: str, size: int) -> None:
    """Notes that a whole file came at once."""
    unit.uploads.finish(unit.uploads.begin(production, work.person, size).id, medium)


def uploaded(work: Work, production: str, medium: str) -> bytes:
    """The bytes of a medium that may be used (`uploaded_file`)."""
    return all_of(uploaded_file(work, production, medium))


def uploaded_file(work: Work, production: str, medium: str) -> Medium:
    """A medium that was uploaded to the production or is a source of it; raises NotFoundError for any other, whether it is in
    the store or not.
    """
    with work.store.unit() as unit:
        known = unit.uploads.brought(production, medium) or unit.sources.uses(medium, production)
    if not known:
        raise NotFoundError("this file was not uploaded to this production", hint="Bring it in again")
    return work.media.open(medium)
