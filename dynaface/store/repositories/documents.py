"""Documents and their history."""

from collections.abc import Sequence
from typing import Any, TypeVar, cast
from uuid import uuid4

from sqlalchemy import Column, Connection, Label, literal_column, select, update
from sqlalchemy.dialects.postgresql import insert

from dynaface.core.documents.model.record import Body
from dynaface.core.records.records import Document, HistoryEntry
from dynaface.store.repositories.held_bodies import held_body, hold_body
from dynaface.store.tables.documents import documents, history
from dynaface.store.tables.people import people

B = TypeVar("B", bound=Body)


# Which write a row is of: a body that is held is not sent again.
_WRITTEN: Label[str] = literal_column("documents.ctid::text || ' ' || documents.xmin::text").label("written")
_HEAD = (
    documents.c.id,
    documents.c.production,
    documents.c.kind,
    documents.c.key,
    documents.c.version,
    documents.c.created,
)


def _document(row: Any, body: Body) -> Document[Body]:
    return Document(row.id, row.production, row.kind, row.key, row.version, body, row.created)


class Documents:
    """Documents and their history. A body is read whole: one that is damaged raises InputError, it is never half a record."""

    def __init__(self, connection: Connection) -> None:
        self._db = connection

    def add(self, production: str, body: B, key: str = "") -> Document[B]:
        """A new document of version 1; without a key its own id is the key. Where there is one with this key already,
        that one is given: of two who begin the same at once both get the same.
        """
        identity = str(uuid4())
        row = {
            "id": identity,
            "production": production,
            "kind": body.kind,
            "key": key or identity,
            "body": body.plain(),
        }
        statement = insert(documents).values(**row)
        self._db.execute(statement.on_conflict_do_nothing(index_elements=["production", "kind", "key"]))
        found = self.by_key(production, type(body), key or identity)
        assert found is not None
        return found

    def get(self, document: str, lock: bool = False) -> Document[Body] | None:
        """The document, locked until the unit of work ends where asked."""
        query = select(*_HEAD, _WRITTEN).where(documents.c.id == document)
        found = self._read(query.with_for_update() if lock else query)
        return found[0] if found else None

    def _read(self, query: Any) -> list[Document[Body]]:
        """The documents of a query for rows; bodies that are not held are read with the rows as they are by then."""
        rows = list(self._db.execute(query))
        held = {row.id: held_body(row.id, row.kind, row.written) for row in rows}
        missing = [identity for identity, body in held.items() if body is None]
        fresh = {}
        if missing:
            whole = select(*_HEAD, _WRITTEN, documents.c.body).where(documents.c.id.in_(missing))
            fresh = {row.id: row for row in self._db.execute(whole)}
        out = []
        for row in rows:
            body = held[row.id]
            if body is not None:
                out.append(_document(row, body))
            elif row.id in fresh:
                now = fresh[row.id]
                out.append(_document(now, hold_body(now.id, now.kind, now.written, now.body)))
        return out

    def by_key(self, production: str, kind: type[B], key: str) -> Document[B] | None:
        """The document of a kind with this key."""
        where = (documents.c.production == production, documents.c.kind == kind.kind, documents.c.key == key)
        found = self._read(select(*_HEAD, _WRITTEN).where(*where))
        return cast(Document[B], found[0]) if found else None

    def many(self, wanted: Sequence[str]) -> list[Document[Body]]:
        """Those of these documents that there are."""
        return self._read(select(*_HEAD, _WRITTEN).where(documents.c.id.in_(wanted)))

    def of_kind(self, production: str, kind: type[B], **fields: str) -> list[Document[B]]:
        """All documents of a kind, oldest first; fields: texts of the body that they have."""
        where = [documents.c.production == production, documents.c.kind == kind.kind]
        where.append(documents.c.body.contains(fields))
        query = select(*_HEAD, _WRITTEN).where(*where).order_by(documents.c.created, documents.c.id)
        return cast(list[Document[B]], self._read(query))

    def places(self, wanted: Sequence[str], lock: bool = False) -> dict[str, tuple[str, str]]:
        """id -> (production, kind) of those documents that there are, locked until the unit of work ends where asked."""
        query = select(documents.c.id, documents.c.production, documents.c.kind).where(documents.c.id.in_(wanted))
        query = query.order_by(documents.c.id).with_for_update() if lock else query
        return {r.id: (r.production, r.kind) for r in self._db.execute(query)}

    def save(self, document: str, version: int, body: Body) -> None:
        """Stores a new version."""
        where = documents.c.id == document
        self._db.execute(update(documents).where(where).values(version=version, body=body.plain()))

    def record(self, document: str, person: str, label: str, version: int, state: str, changes: list[dict[str, Any]]
               ) -> int:  # fmt: skip
        """Appends to the history: the entry's number, which rises with time over all documents."""
        row = {"document": document, "person": person, "label": label, "version": version, "state": state}
        return int(
            self._db.execute(history.insert().values(**row, changes=changes).returning(history.c.id)).scalar_one()
        )

    def set_undone(self, entry: int, by: int | None) -> None:
        """Marks an entry as undone by an entry of kind "step", or as live again with None."""
        state = "live" if by is None else "undone"
        self._db.execute(update(history).where(history.c.id == entry).values(state=state, undone_by=by))

    def drop_undone(self, document: str, person: str) -> None:
        """After a new edit, what the person had undone can no longer be redone."""
        where = (history.c.document == document, history.c.person == person, history.c.state == "undone")
        self._db.execute(update(history).where(*where).values(state="dropped"))

    def newest_live(self, found: Sequence[str], person: str) -> HistoryEntry | None:
        """The person's newest change on any of the documents that is not undone."""
        return self._own(found, person, "live", history.c.id)

    def newest_undone(self, found: Sequence[str], person: str) -> HistoryEntry | None:
        """What the person undid last on any of the documents and can be redone."""
        return self._own(found, person, "undone", history.c.undone_by)

    def _own(self, found: Sequence[str], person: str, state: str, rank: Column[Any]) -> HistoryEntry | None:
        where = (history.c.document.in_(found), history.c.person == person, history.c.state == state)
        query = select(history, people.c.name).where(*where).order_by(rank.desc().nulls_last(), history.c.id)
        entries = self._entries(query.limit(1))
        return entries[0] if entries else None

    def since(self, document: str, version: int) -> list[HistoryEntry]:
        """Entries that made versions after this one, newest first."""
        where = (history.c.document == document, history.c.version > version)
        return self._entries(select(history, people.c.name).where(*where).order_by(history.c.id.desc()))

    def _entries(self, query: Any) -> list[HistoryEntry]:
        rows = self._db.execute(query.join(people, people.c.id == history.c.person))
        return [
            HistoryEntry(r.id, r.document, r.person, r.name, r.label, r.version, r.state, r.changes, r.at) for r in rows
        ]
