"""Accounts: making one, signing in, and the one person of a machine that is used alone."""

from argon2 import PasswordHasher
from argon2.exceptions import VerificationError
from zxcvbn import zxcvbn

from dynaface.core.errors import DeniedError, InputError
from dynaface.core.records.records import Person
from dynaface.store.unit import Store

LOCAL = "Animator"
MIN_PASSWORD, MAX_PASSWORD, MIN_SCORE = 12, 200, 3
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
    check_password(password, name)
    with store.unit() as unit:
        if unit.people.by_name(name):
            raise InputError(f"there is an account named {name!r} already")
        return unit.people.add(name, _hasher.hash(password))


def check_password(password: str, name: str) -> None:
    """Raises InputError for a password that is short, or that guessing from lists of common ones finds soon."""
    if not MIN_PASSWORD <= len(password) <= MAX_PASSWORD:
        raise InputError(f"the password must have {MIN_PASSWORD} to {MAX_PASSWORD} letters", hint="Take a few words")
    found = zxcvbn(password[:72], user_inputs=[name, "dynaface", "animator"])
    if found["score"] < MIN_SCORE:
        raise InputError(
            "this password is among those that are guessed first", hint="Take a few words that do not go together"
        )


def change_password(store: Store, person: str, old: str, new: str, session: str) -> None:
    """Sets another password and ends all of the person's sessions but this one; raises DeniedError where the old one is wrong."""
    with store.unit() as unit:
        found = unit.people.by_id(person)
    if found is None or not found.password_hash:
        raise InputError("this account has no password")
    if not _fits(found.password_hash, old):
        raise DeniedError("the old password is wrong")
    check_password(new, found.name)
    with store.unit() as unit:
        unit.people.set_password(person, _hasher.hash(new))
        unit.sessions.end_others(person, session)


def _fits(password_hash: str, password: str) -> bool:
    try:
        return bool(_hasher.verify(password_hash, password))
    except VerificationError:
        return False


def sign_in(store: Store, name: str, password: str) -> Person:
    """The person, if name and password fit; raises DeniedError."""
    with store.unit() as unit:
        person = unit.people.by_name(name)
    fits = _fits(person.password_hash if person and person.password_hash else _NOBODY, password)
    if not fits or person is None or not person.password_hash:
        raise DeniedError("name or password is wrong")
    return person
