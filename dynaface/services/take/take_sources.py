"""What a take is made of: its clip, its markers."""

from dynaface.core.documents.model.take import TakeBody
from dynaface.core.errors import InputError
from dynaface.core.records.records import Document, Source
from dynaface.services.work import Work, document_for, source_within


def footage_of(work: Work, take: str) -> tuple[Document[TakeBody], Source]:
    """A take and its clip; raises InputError where it has none."""
    return _source_of(work, take, "footage", "Bring in a clip at the Gather desk")


def markers_of(work: Work, take: str) -> tuple[Document[TakeBody], Source]:
    """A take and its markers; raises InputError where it has none."""
    return _source_of(work, take, "markers", "Bring in a .c3d or a table of markers at the Gather desk")


def _source_of(work: Work, take: str, kind: str, hint: str) -> tuple[Document[TakeBody], Source]:
    with work.store.unit() as unit:
        found = document_for(work, unit, take, TakeBody)
        held = found.body.sources.held.get(kind)
        if not held:
            raise InputError(f"this take has no {kind}", hint=hint)
        return found, source_within(unit, found.production, held, kind)
