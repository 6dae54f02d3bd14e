"""Productions: list, begin, and who is in them."""

from dynaface.core.errors import ConflictError, InputError, NotFoundError
from dynaface.core.records.records import Production
from dynaface.services.work import Work, allow_owner


def list_productions(work: Work) -> list[Production]:
    """The person's productions."""
    with work.store.unit() as unit:
        return unit.people.productions_of(work.person)


def begin_production(work: Work, name: str) -> Production:
    """A new production, owned by the person."""
    if not name.strip() or len(name) > 80:
        raise InputError("the production's name must have 1 to 80 letters")
    with work.store.unit() as unit:
        production = unit.people.add_production(name.strip())
        unit.people.add_member(production.id, work.person, "owner")
        return Production(production.id, production.name, "owner")


def add_member(work: Work, production: str, name: str) -> None:
    """Makes somebody a member; owners may."""
    with work.store.unit() as unit:
        allow_owner(unit, production, work.person)
        person = unit.people.by_name(name)
        if person is None:
            raise NotFoundError(f"nobody here is named {name!r}", hint="Add the account first: `dynaface account NAME`")
        if unit.people.role(production, person.id):
            raise ConflictError(f"{name} is a member already")
        unit.people.add_member(production, person.id, "member")
