"""A notes sheet on the takes of a production: circles, notes and starts, found by slate."""

from typing import Any

from dynaface.core.documents.model.take import TakeBody
from dynaface.core.errors import InputError
from dynaface.core.records.records import Document
from dynaface.formats.entries.notes_sheet import Note, slate_key
from dynaface.services.edit_document import edit_document
from dynaface.services.media.inspect_upload import inspect_upload
from dynaface.services.work import Work

LONGEST = 4000  # letters of a take's notes


def apply_notes(work: Work, production: str, medium: str, filename: str) -> dict[str, Any]:
    """Circles and notes takes, and notes where they begin, as a sheet says: how many were changed, which slates are unknown; each can be undone."""
    inspected = inspect_upload(work, production, medium, filename)
    if inspected.format.kind != "notes":
        raise InputError(f"{filename} is a {inspected.format.label}, not a notes sheet")
    with work.store.unit() as unit:
        takes = [t for t in unit.documents.of_kind(production, TakeBody) if not t.body.archived]
    by_slate: dict[str, list[Document[TakeBody]]] = {}
    for take in takes:
        by_slate.setdefault(slate_key(take.body.slate), []).append(take)
    unknown, changed = [], 0
    for note in inspected.value:
        found = by_slate.get(slate_key(note.slate), [])
        if not found:
            unknown.append(note.slate)
        for take in found:
            changes = _changes(take, note)
            if changes:
                edit_document(work, take.id, take.version, "notes sheet", changes)
                changed += 1
    return {"changed": changed, "unknown": unknown}


def _changes(take: Document[TakeBody], note: Note) -> list[dict[str, Any]]:
    out: list[dict[str, Any]] = []
    if note.circled is not None and note.circled != take.body.circled:
        out.append({"path": "circled", "value": note.circled})
    if note.notes and note.notes not in take.body.notes:
        out.append({"path": "notes", "value": f"{take.body.notes}\n{note.notes}".strip()[:LONGEST]})
    for field, said, before in (
        ("notedStart", note.start, take.body.noted_start),
        ("notedRate", note.rate, take.body.noted_rate),
    ):
        if note.start and said != before:
            out.append({"path": field, "value": said})
    return out
