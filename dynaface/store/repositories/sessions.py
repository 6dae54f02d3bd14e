"""Sessions of people who are signed in."""

from datetime import timedelta
from uuid import uuid4

from sqlalchemy import ColumnElement, Connection, func, or_, select

from dynaface.core.records.records import Session
from dynaface.store.tables.sessions import sessions

_t = sessions.c


def _over(idle: float, longest: float) -> ColumnElement[bool]:
    return or_(_t.seen < func.now() - timedelta(seconds=idle), _t.begun < func.now() - timedelta(seconds=longest))


class Sessions:
    """Sessions of people who are signed in."""

    def __init__(self, connection: Connection) -> None:
        self._db = connection

    def begin(self, person: str, token: str, address: str, agent: str) -> str:
        """A new session; gives its id."""
        identity = str(uuid4())
        self._db.execute(
            sessions.insert().values(id=identity, token=token, person=person, address=address, agent=agent)
        )
        return identity

    def find(self, token: str, idle: float, longest: float) -> Session | None:
        """The session of a token; none that nobody used for `idle` seconds or that is older than `longest`."""
        row = self._db.execute(select(sessions).where(_t.token == token, ~_over(idle, longest))).first()
        return Session(row.id, row.person, row.address, row.agent, row.begun, row.seen) if row else None

    def touch(self, session: str, every: float) -> None:
        """Notes that the session is in use, at most once in so many seconds."""
        due = (_t.id == session, _t.seen < func.now() - timedelta(seconds=every))
        self._db.execute(sessions.update().where(*due).values(seen=func.now()))

    def of(self, person: str, idle: float, longest: float) -> list[Session]:
        """The person's sessions that are not over, the one used last first."""
        own = (_t.person == person, ~_over(idle, longest))
        rows = self._db.execute(select(sessions).where(*own).order_by(_t.seen.desc()))
        return [Session(r.id, r.person, r.address, r.agent, r.begun, r.seen) for r in rows]

    def end(self, person: str, session: str) -> bool:
        """Ends a session of the person's; whether there was one."""
        where = (_t.person == person, _t.id == session)
        return self._db.execute(sessions.delete().where(*where)).rowcount == 1

    def end_others(self, person: str, kept: str) -> None:
        """Ends all of the person's sessions but one."""
        self._db.execute(sessions.delete().where(_t.person == person, _t.id != kept))

    def sweep(self, idle: float, longest: float) -> None:
        """Drops sessions that nobody used for `idle` seconds, or that are older than `longest`."""
        self._db.execute(sessions.delete().where(_over(idle, longest)))
