"""Accounts: making one, signing in, and the one person of a machine that is used alone."""

from argon2 import PasswordHasher
from argon2.exceptions import VerificationError

from dynaface.core.errors import DeniedError, InputError
from dynaface.core.records.records import Person
from dynaface.store.unit import Store

LOCAL = "Animator"
_hasher = PasswordHasher()
# Compared against when the name is unknown, so that both answers take as long.
_NOBODY = _hasher.hash("nobody has this password")


def local_person(store: Store) -> Person:
    """The person who works alone on this machine."""
    with store.unit() as unit:
        return unit.people.by_name(LOCAL) or unit.people.add(LOCAL)


def add_account(store: Store, name: str, password: str) -> Person:
    """A new account; raises InputError for a name taken or a short password."""
    if not name.strip() or len(name) > 80:
        raise InputError("the name must have 1 to 80 letters")
    if len(password) < 10:
        raise InputError("the password must have at least 10 letters")
    with store.unit() as unit:
        if unit.people.by_name(name):
            raise InputError(f"there is an account named {name!r} already")
        return unit.people.add(name, _hasher.hash(password))


def sign_in(store: Store, name: str, password: str) -> Person:
    """The person, if name and password fit; raises DeniedError."""
    with store.unit() as unit:
        person = unit.people.by_name(name)
    try:
        _hasher.verify(person.password_hash if person and person.password_hash else _NOBODY, password)
    except VerificationError:
        raise DeniedError("name or password is wrong") from None
    if person is None or not person.password_hash:
        raise DeniedError("name or password is wrong")
    return person


def find_person(store: Store, person: str) -> Person | None:
    """The person of an id."""
    with store.unit() as unit:
        return unit.people.by_id(person)
