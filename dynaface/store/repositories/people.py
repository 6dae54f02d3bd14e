"""People, productions, members."""

from uuid import uuid4

from sqlalchemy import Connection, select

from dynaface.core.records.records import Person, Production
from dynaface.store.tables.people import members, people, productions


class People:
    """People, productions, members."""

    def __init__(self, connection: Connection) -> None:
        self._db = connection

    def add(self, name: str, password_hash: str = "") -> Person:
        """A new person."""
        person = Person(str(uuid4()), name, password_hash)
        self._db.execute(people.insert().values(id=person.id, name=name, password_hash=password_hash))
        return person

    def set_password(self, person: str, password_hash: str) -> None:
        """Another password."""
        self._db.execute(people.update().where(people.c.id == person).values(password_hash=password_hash))

    def by_name(self, name: str) -> Person | None:
        """The person of this name."""
        row = self._db.execute(select(people).where(people.c.name == name)).first()
        return Person(row.id, row.name, row.password_hash) if row else None

    def by_id(self, person: str) -> Person | None:
        """The person of this id."""
        row = self._db.execute(select(people).where(people.c.id == person)).first()
        return Person(row.id, row.name, row.password_hash) if row else None

    def all_productions(self) -> list[str]:
        """Ids of all productions."""
        return [row.id for row in self._db.execute(select(productions.c.id))]

    def productions_of(self, person: str) -> list[Production]:
        """Productions that the person is a member of, oldest first."""
        query = (
            select(productions.c.id, productions.c.name, members.c.role)
            .join(members, members.c.production == productions.c.id)
            .where(members.c.person == person)
            .order_by(productions.c.created, productions.c.id)
        )
        return [Production(r.id, r.name, r.role) for r in self._db.execute(query)]

    def production_name(self, production: str) -> str:
        """What it is called, "" where there is none."""
        query = select(productions.c.name).where(productions.c.id == production)
        return self._db.execute(query).scalar_one_or_none() or ""

    def role(self, production: str, person: str) -> str | None:
        """The person's role in the production, or None."""
        query = select(members.c.role).where(members.c.production == production, members.c.person == person)
        return self._db.execute(query).scalar_one_or_none()

    def add_production(self, name: str) -> Production:
        """A new production."""
        production = Production(str(uuid4()), name)
        self._db.execute(productions.insert().values(id=production.id, name=name))
        return production

    def add_member(self, production: str, person: str, role: str) -> None:
        """Makes the person a member."""
        self._db.execute(members.insert().values(production=production, person=person, role=role))
