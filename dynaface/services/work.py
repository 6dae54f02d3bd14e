"""What every use case is given: who asks, and the store, the media and the queue to work on."""

import re
from collections.abc import Callable, Collection, Sequence
from dataclasses import dataclass, field, replace
from typing import TypeVar, cast
from uuid import UUID, uuid4, uuid5

from dynaface.core.documents.model.record import ID_PATTERN, Body, Reference
from dynaface.core.errors import DeniedError, InputError, NotFoundError
from dynaface.core.evaluate.cache import Cache
from dynaface.core.records.records import Document, Source
from dynaface.store.media import Media
from dynaface.store.unit import Store, Unit

_ID = re.compile(ID_PATTERN)
B = TypeVar("B", bound=Body)
CACHE_BYTES = 1_500_000_000


@dataclass(frozen=True)
class Work:
    """person: id of who asks; defer: puts a job in the queue by its id; node: Node.js for the glTF validator, or ""; cache: of
    what was read and worked out, shared by all who ask in one process; job: id of the job that is worked on, "" where somebody waits.
    """

    store: Store
    media: Media
    defer: Callable[[str], None]
    node: str = ""
    person: str = ""
    job: str = ""
    cache: Cache = field(default_factory=lambda: Cache(CACHE_BYTES))

    def by(self, person: str) -> "Work":
        """The same for somebody."""
        return replace(self, person=person)

    def on(self, job: str, attempt: int) -> "Work":
        """The same for an attempt at a job: its transactions are refused once the job has gone over to another attempt."""
        return replace(self, job=job, store=self.store.fenced(job, attempt))

    def made(self, what: str) -> str:
        """The id of something that is made: the same in each attempt at one job, so that nothing of it is made twice."""
        return str(uuid5(UUID(self.job), what) if self.job else uuid4())


def identity(text: str, what: str) -> str:
    """The id, if it is one; what is no id names nothing."""
    if not _ID.match(text):
        raise NotFoundError(f"there is no such {what}")
    return text


def allow(unit: Unit, production: str, person: str) -> None:
    """Raises when the person is no member; to them the production does not exist."""
    identity(production, "production")
    if unit.people.role(production, person) is None:
        raise NotFoundError("there is no such production, or you are no member of it")


def allow_owner(unit: Unit, production: str, person: str) -> None:
    """Raises when the person does not own the production."""
    allow(unit, production, person)
    if unit.people.role(production, person) != "owner":
        raise DeniedError("only an owner of the production may do that")


def document_for(work: Work, unit: Unit, document: str, kind: type[B], lock: bool = False) -> Document[B]:
    """The document, if there is one of this kind and the person may see it; `Body` takes any kind."""
    found = unit.documents.get(identity(document, kind.kind or "document"), lock)
    if found is None or not isinstance(found.body, kind):
        raise NotFoundError(f"there is no such {kind.kind or 'document'}")
    allow(unit, found.production, work.person)
    return cast(Document[B], found)


def check_documents(work: Work, unit: Unit, wanted: Sequence[str], lock: bool = False) -> None:
    """Raises NotFoundError unless there are all of these documents and the person may see them."""
    places = unit.documents.places(sorted({identity(d, "document") for d in wanted}), lock)
    if any(d not in places for d in wanted):
        raise NotFoundError("there is no such document")
    for production in {production for production, _ in places.values()}:
        allow(unit, production, work.person)


def source_within(unit: Unit, production: str, source: str, kind: str) -> Source:
    """The source, if it is one of this kind in this production: what a document names is checked at each reading."""
    found = unit.sources.get(source)
    if found is None or found.production != production or found.kind != kind:
        raise NotFoundError(f"there is no such source of {kind} in this production")
    return found


def check_references(unit: Unit, production: str, named: Collection[Reference]) -> None:
    """Raises InputError where a body names a source or a document that is not there, of another production or of another
    kind.
    """
    sources = {s.id: (s.production, s.kind) for s in unit.sources.many([r.id for r in named if r.of == "source"])}
    documents = unit.documents.places([r.id for r in named if r.of == "document"])
    for reference in named:
        held = sources if reference.of == "source" else documents
        if held.get(reference.id) != (production, reference.kind):
            raise InputError(f"{reference.path} names {reference.id}, which is no {reference.kind} of this production",
                             where=reference.path, hint="Choose one of this production")  # fmt: skip


def add_document(unit: Unit, production: str, body: B, key: str = "") -> Document[B]:
    """A new document, with all that it names checked; where there is one with this key already, that one."""
    check_references(unit, production, body.references())
    return unit.documents.add(production, body, key)


def source_for(work: Work, unit: Unit, source: str) -> Source:
    """The source, if the person may see it."""
    found = unit.sources.get(identity(source, "source"))
    if found is None:
        raise NotFoundError("there is no such source")
    allow(unit, found.production, work.person)
    return found
