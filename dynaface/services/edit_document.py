"""Editing documents, with undo and redo for each person; conflicts are named, never overwritten."""

from collections.abc import Mapping, Sequence
from typing import Any

from dynaface.core.documents.changes import Change, applied, changes_for, fits, overlap
from dynaface.core.documents.kinds import CHECKS
from dynaface.core.errors import ConflictError, InputError
from dynaface.core.records.records import Document, HistoryEntry
from dynaface.services.work import Work, document_for
from dynaface.store.unit import Unit


def edit_document(
    work: Work, document: str, base_version: int, label: str, wanted: Sequence[Mapping[str, Any]]
) -> Document:
    """Makes changes on top of `base_version`. Changes by others to other places are no conflict."""
    if not label or len(label) > 120:
        raise InputError("a change needs a label of 1 to 120 letters")
    with work.store.unit() as unit:
        found = document_for(work, unit, document, lock=True)
        changes = changes_for(found.body, wanted)
        if not changes:
            return found
        for entry in unit.documents.since(document, base_version):
            if entry.person != work.person and _touches(entry, changes):
                raise ConflictError(
                    f"{entry.person_name} changed this meanwhile: {entry.label}",
                    who=entry.person_name,
                    what=entry.label,
                    hint="Look at the change, then make yours again",
                )
        unit.documents.drop_undone(document, work.person)
        return _store(unit, work.person, found, changes, label, "live")


def undo(work: Work, documents: Sequence[str]) -> tuple[Document, str]:
    """Takes back the person's newest change on any of the documents: (document, label)."""
    return _travel(work, documents, "live", True)


def redo(work: Work, documents: Sequence[str]) -> tuple[Document, str]:
    """Makes again what the person took back last: (document, label)."""
    return _travel(work, documents, "undone", False)


def history_state(work: Work, documents: Sequence[str]) -> dict[str, str]:
    """The labels of what undo and redo would do now, "" for nothing."""
    with work.store.unit() as unit:
        for document in documents:
            document_for(work, unit, document)
        back = unit.documents.own(documents, work.person, "live", newest=True)
        forth = unit.documents.own(documents, work.person, "undone", newest=False)
        return {"undo": back.label if back else "", "redo": forth.label if forth else ""}


def _travel(work: Work, documents: Sequence[str], state: str, undoing: bool) -> tuple[Document, str]:
    word = "undo" if undoing else "redo"
    with work.store.unit() as unit:
        for document in documents:
            document_for(work, unit, document)
        entry = unit.documents.own(documents, work.person, state, newest=undoing)
        if entry is None:
            raise InputError(f"there is nothing to {word}")
        found = document_for(work, unit, entry.document, lock=True)
        changes = [Change(**c) for c in entry.changes]
        before = changes if undoing else [c.inverted() for c in changes]
        if clash := fits(found.body, before):
            raise _conflict(unit, entry, clash, work.person, word)
        steps = [c.inverted() for c in reversed(changes)] if undoing else changes
        unit.documents.set_state(entry.id, "undone" if undoing else "live")
        stored = _store(unit, work.person, found, steps, f"{word}: {entry.label}", "step")
        return stored, entry.label


def _store(unit: Unit, person: str, found: Document, changes: Sequence[Change], label: str, state: str) -> Document:
    body = applied(found.body, changes)
    CHECKS[found.kind](body)
    version = found.version + 1
    unit.documents.save(found.id, version, body)
    unit.documents.record(found.id, person, label, version, state, [c.describe() for c in changes])
    return Document(found.id, found.production, found.kind, found.key, version, body, found.created)


def _touches(entry: HistoryEntry, changes: Sequence[Change]) -> bool:
    return any(overlap(c["path"], mine.path) for c in entry.changes for mine in changes)


def _conflict(unit: Unit, entry: HistoryEntry, clash: Change, person: str, word: str) -> ConflictError:
    later = unit.documents.since(entry.document, entry.version)
    by = next((e for e in later if any(overlap(c["path"], clash.path) for c in e.changes) and e.person != person), None)
    who, what = (by.person_name, by.label) if by else ("a later change", entry.label)
    return ConflictError(
        f"cannot {word} {entry.label!r}: {who} has changed the same since ({what})",
        who=who,
        what=what,
        hint="What is there now was kept",
    )
