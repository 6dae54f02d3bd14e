"""Plain records: people, productions, documents, sources, jobs, handovers."""

from dataclasses import dataclass, field
from datetime import datetime
from typing import Any, Generic, TypeVar

from dynaface.core.documents.model.record import Body

B = TypeVar("B", bound=Body, covariant=True)


@dataclass(frozen=True)
class Session:
    """A person who is signed in somewhere: from which address, with which browser, since when, and when it was used last."""

    id: str
    person: str
    address: str
    agent: str
    begun: datetime
    seen: datetime


@dataclass(frozen=True)
class Person:
    """Somebody who works here."""

    id: str
    name: str
    password_hash: str = ""


@dataclass(frozen=True)
class Production:
    """Everything for one film, game or show."""

    id: str
    name: str
    role: str = "member"


@dataclass(frozen=True)
class Document(Generic[B]):
    """Something that people edit; `version` rises by one with each change. A document that is not stored yet has no id
    and is of version 0.
    """

    id: str
    production: str
    kind: str
    key: str
    version: int
    body: B
    created: datetime


@dataclass(frozen=True)
class HistoryEntry:
    """A change that somebody made; state is "live", "undone", "dropped" (no longer to be redone) or "step" (an undo
    or redo itself)."""

    id: int
    document: str
    person: str
    person_name: str
    label: str
    version: int
    state: str
    changes: list[dict[str, Any]]
    at: datetime


@dataclass(frozen=True)
class Source:
    """A file that was brought in: raw bytes in the media store under `media`, findings in `info`."""

    id: str
    production: str
    kind: str
    name: str
    media: str
    size: int
    info: dict[str, Any] = field(default_factory=dict)


@dataclass(frozen=True)
class Upload:
    """A file that comes in pieces: bytes in all, bytes received, media of the pieces, and of the whole once it is there."""

    id: str
    production: str
    person: str
    size: int
    received: int
    pieces: tuple[str, ...]
    media: str = ""


@dataclass(frozen=True)
class Job:
    """Long work: state is "queued", "running", "done", "failed" or "cancelled"; progress 0..1."""

    id: str
    production: str
    person: str
    kind: str
    label: str
    state: str
    progress: float
    message: str
    request: dict[str, Any]
    result: dict[str, Any]
    cancelling: bool
    created: datetime


@dataclass(frozen=True)
class Handover:
    """A baked delivery: files as {"name", "media", "size"}, with the settings and the check report."""

    id: str
    production: str
    document: str
    label: str
    settings: dict[str, Any]
    report: dict[str, Any]
    files: list[dict[str, Any]]
    created: datetime
