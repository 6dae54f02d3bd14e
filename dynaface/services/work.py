"""What every use case is given: who asks, and the store, the media and the queue to work on."""

import re
from collections.abc import Callable
from dataclasses import dataclass, replace
from functools import lru_cache
from pathlib import Path

from dynaface.core.errors import DeniedError, NotFoundError
from dynaface.core.records.records import Document, Source
from dynaface.store.media import Media
from dynaface.store.unit import Store, Unit

_ID = re.compile(r"^[0-9a-f]{8}(-[0-9a-f]{4}){3}-[0-9a-f]{12}$")


@dataclass(frozen=True)
class Work:
    """person: id of who asks; defer: puts a job in the queue by its id; node: Node.js for the glTF validator, or ""."""

    store: Store
    media: Media
    defer: Callable[[str], None]
    node: str = ""
    person: str = ""

    def by(self, person: str) -> "Work":
        """The same for somebody."""
        return replace(self, person=person)


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


def document_for(work: Work, unit: Unit, document: str, kind: str = "", lock: bool = False) -> Document:
    """The document, if there is one of this kind and the person may see it."""
    found = unit.documents.get(identity(document, kind or "document"), lock)
    if found is None or (kind and found.kind != kind):
        raise NotFoundError(f"there is no such {kind or 'document'}")
    allow(unit, found.production, work.person)
    return found


def source_for(work: Work, unit: Unit, source: str) -> Source:
    """The source, if the person may see it."""
    found = unit.sources.get(identity(source, "source"))
    if found is None:
        raise NotFoundError("there is no such source")
    allow(unit, found.production, work.person)
    return found


@lru_cache(maxsize=1)
def validator_script() -> Path:
    """The script that runs the glTF validator."""
    return Path(__file__).parents[2] / "frontend" / "validate.mjs"
