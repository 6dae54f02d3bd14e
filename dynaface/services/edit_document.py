"""Editing documents, with undo and redo for each person; conflicts are named, never overwritten."""

from collections.abc import Mapping, Sequence
from typing import Any, TypeVar

from dynaface.core.documents.changes import MAX_CHANGES, Change, applied, asked, between, fits, overlap
from dynaface.core.documents.model.record import Body, parse
from dynaface.core.errors import ConflictError, InputError
from dynaface.core.records.records import Document, HistoryEntry
from dynaface.services.work import Work, check_documents, check_references, document_for
from dynaface.store.unit import Unit

B = TypeVar("B", bound=Body)
Wanted = Sequence[Mapping[str, Any]]
"""Values at paths, each {"path", "value"} or {"path", "remove": true}."""


def edited(body: B, wanted: Wanted) -> B:
    """The body as it would be with these values; raises InputError. Nothing is stored."""
    changes = asked(wanted)
    for change in changes:
        if change.path.split("/")[0] in body.fixed:
            raise InputError(f"{change.path} of a {body.kind} never changes", where=change.path)
    return parse(type(body), applied(body.plain(), changes), f"the {body.kind}")


def edit_document(work: Work, document: str, base_version: int, label: str, wanted: Wanted) -> Document[Body]:
    """Makes changes on top of `base_version`. Changes by others to other places are no conflict."""
    if len(wanted) > MAX_CHANGES:
        raise InputError(f"{len(wanted)} changes at once", hint=f"At most {MAX_CHANGES}")
    return change_document(work, document, Body, base_version, label, wanted)


def change_document(
    work: Work, document: str, kind: type[B], base_version: int, label: str, wanted: Wanted
) -> Document[B]:
    """Makes any number of changes to a document of a kind; for use cases that work the changes out themselves."""
    if not label or len(label) > 120:
        raise InputError("a change needs a label of 1 to 120 letters")
    with work.store.unit() as unit:
        found = document_for(work, unit, document, kind, lock=True)
        body = edited(found.body, wanted)
        changes = between(found.body.plain(), body.plain(), [str(w["path"]) for w in wanted])
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
        return _store(unit, work.person, found, body, changes, label, "live")[0]


def undo(work: Work, documents: Sequence[str]) -> tuple[Document[Body], str]:
    """Takes back the person's newest change on any of the documents: (document, label)."""
    return _travel(work, documents, undoing=True)


def redo(work: Work, documents: Sequence[str]) -> tuple[Document[Body], str]:
    """Makes again what the person took back last: (document, label)."""
    return _travel(work, documents, undoing=False)


def history_state(work: Work, documents: Sequence[str]) -> dict[str, str]:
    """The labels of what undo and redo would do now, "" for nothing."""
    with work.store.unit() as unit:
        check_documents(work, unit, documents)
        back = unit.documents.newest_live(documents, work.person)
        forth = unit.documents.newest_undone(documents, work.person)
        return {"undo": back.label if back else "", "redo": forth.label if forth else ""}


def _travel(work: Work, documents: Sequence[str], undoing: bool) -> tuple[Document[Body], str]:
    word = "undo" if undoing else "redo"
    with work.store.unit() as unit:
        check_documents(work, unit, documents, lock=True)
        newest = unit.documents.newest_live if undoing else unit.documents.newest_undone
        entry = newest(documents, work.person)
        if entry is None:
            raise InputError(f"there is nothing to {word}")
        found = document_for(work, unit, entry.document, Body)
        changes = [Change(**c) for c in entry.changes]
        before = changes if undoing else [c.inverted() for c in changes]
        plain = found.body.plain()
        if clash := fits(plain, before):
            raise _conflict(unit, entry, clash, work.person, word)
        steps = [c.inverted() for c in reversed(changes)] if undoing else changes
        body = parse(type(found.body), applied(plain, steps), f"the {found.kind}")
        stored, step = _store(unit, work.person, found, body, steps, f"{word}: {entry.label}"[:120], "step")
        unit.documents.set_undone(entry.id, step if undoing else None)
        return stored, entry.label


def _store(
    unit: Unit, person: str, found: Document[B], body: B, changes: Sequence[Change], label: str, state: str
) -> tuple[Document[B], int]:
    check_references(unit, found.production, set(body.references()) - set(found.body.references()))
    version = found.version + 1
    unit.documents.save(found.id, version, body)
    entry = unit.documents.record(found.id, person, label, version, state, [c.describe() for c in changes])
    return Document(found.id, found.production, found.kind, found.key, version, body, found.created), entry


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
