"""Documents and their history."""

from collections.abc import Sequence
from typing import Any
from uuid import uuid4

from sqlalchemy import Connection, Row, select, update

from dynaface.core.records.records import Document, HistoryEntry
from dynaface.store.tables.documents import documents, history
from dynaface.store.tables.people import people


def _document(row: Row[Any]) -> Document:
    return Document(row.id, row.production, row.kind, row.key, row.version, row.body, row.created)


class Documents:
    """Documents and their history."""

    def __init__(self, connection: Connection) -> None:
        self._db = connection

    def add(self, production: str, kind: str, body: dict[str, Any], key: str = "") -> Document:
        """A new document of version 1; without a key its own id is the key."""
        identity = str(uuid4())
        self._db.execute(
            documents.insert().values(id=identity, production=production, kind=kind, key=key or identity, body=body)
        )
        found = self.get(identity)
        assert found is not None
        return found

    def get(self, document: str, lock: bool = False) -> Document | None:
        """The document, locked until the unit of work ends where asked."""
        query = select(documents).where(documents.c.id == document)
        row = self._db.execute(query.with_for_update() if lock else query).first()
        return _document(row) if row else None

    def by_key(self, production: str, kind: str, key: str) -> Document | None:
        """The document of a kind with this key."""
        where = (documents.c.production == production, documents.c.kind == kind, documents.c.key == key)
        row = self._db.execute(select(documents).where(*where)).first()
        return _document(row) if row else None

    def of_kind(self, production: str, kind: str) -> list[Document]:
        """All documents of a kind, oldest first."""
        where = (documents.c.production == production, documents.c.kind == kind)
        query = select(documents).where(*where).order_by(documents.c.created, documents.c.id)
        return [_document(r) for r in self._db.execute(query)]

    def save(self, document: str, version: int, body: dict[str, Any]) -> None:
        """Stores a new version."""
        self._db.execute(update(documents).where(documents.c.id == document).values(version=version, body=body))

    def record(self, document: str, person: str, label: str, version: int, state: str, changes: list[dict[str, Any]]
               ) -> None:  # fmt: skip
        """Appends to the history."""
        self._db.execute(
            history.insert().values(
                document=document, person=person, label=label, version=version, state=state, changes=changes
            )
        )

    def set_state(self, entry: int, state: str) -> None:
        """Marks an entry as undone or live again."""
        self._db.execute(update(history).where(history.c.id == entry).values(state=state))

    def drop_undone(self, document: str, person: str) -> None:
        """After a new edit, what the person had undone can no longer be redone."""
        where = (history.c.document == document, history.c.person == person, history.c.state == "undone")
        self._db.execute(update(history).where(*where).values(state="dropped"))

    def own(self, found: Sequence[str], person: str, state: str, newest: bool) -> HistoryEntry | None:
        """The person's newest or oldest entry of a state on any of the documents."""
        order = history.c.id.desc() if newest else history.c.id.asc()
        where = (history.c.document.in_(found), history.c.person == person, history.c.state == state)
        entries = self._entries(select(history, people.c.name).where(*where).order_by(order).limit(1))
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
