"""What a take is made of: its clip, its markers."""

from dynaface.core.errors import InputError
from dynaface.core.records.records import Document, Source
from dynaface.services.work import Work, document_for, source_for


def footage_of(work: Work, take: str) -> tuple[Document, Source]:
    """A take and its clip; raises InputError where it has none."""
    return _source_of(work, take, "footage", "Bring in a clip at the Gather desk")


def markers_of(work: Work, take: str) -> tuple[Document, Source]:
    """A take and its markers; raises InputError where it has none."""
    return _source_of(work, take, "markers", "Bring in a .c3d or a table of markers at the Gather desk")


def _source_of(work: Work, take: str, kind: str, hint: str) -> tuple[Document, Source]:
    with work.store.unit() as unit:
        found = document_for(work, unit, take, "take")
        held = found.body["sources"].get(kind)
        if not held:
            raise InputError(f"this take has no {kind}", hint=hint)
        return found, source_for(work, unit, held)
