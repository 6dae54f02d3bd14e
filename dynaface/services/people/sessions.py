"""Sessions: begun by signing in, listed and ended by who they belong to. The cookie holds a token that only its owner has."""

import hashlib
import secrets

from dynaface.core.errors import NotFoundError
from dynaface.core.records.records import Person, Session
from dynaface.services.work import identity
from dynaface.store.unit import Store

DAY = 86400.0
IDLE, LONGEST = 14 * DAY, 60 * DAY  # seconds without use, and in all, after which a session is over
EVERY = 60.0  # seconds between notes of its use


def _kept(token: str) -> str:
    return hashlib.sha256(token.encode()).hexdigest()


def begin_session(store: Store, person: Person, address: str, agent: str) -> str:
    """The token of a new session; address and agent say from where, for the person's own list."""
    token = secrets.token_urlsafe(32)
    with store.unit() as unit:
        unit.sessions.sweep(IDLE, LONGEST)
        unit.sessions.begin(person.id, _kept(token), address[:80], agent[:200])
    return token


def find_session(store: Store, token: str) -> tuple[Person, str] | None:
    """(person, id of the session) of a token, None for one that was ended or is over."""
    with store.unit() as unit:
        found = unit.sessions.find(_kept(token), IDLE, LONGEST)
        person = unit.people.by_id(found.person) if found else None
        if found is None or person is None:
            return None
        unit.sessions.touch(found.id, EVERY)
    return person, found.id


def list_sessions(store: Store, person: str) -> list[Session]:
    """The person's sessions, the one used last first."""
    with store.unit() as unit:
        return unit.sessions.of(person, IDLE, LONGEST)


def end_session(store: Store, person: str, session: str) -> None:
    """Ends one of the person's sessions; raises NotFoundError for any other."""
    with store.unit() as unit:
        if not unit.sessions.end(person, identity(session, "session")):
            raise NotFoundError("there is no such session of yours")
