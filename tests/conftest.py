"""Fixtures on the real PostgreSQL. `./dev test` starts a cluster of its own and says where it is."""

import os
from uuid import uuid4

import pytest
from argon2 import PasswordHasher
from hypothesis import settings as hypothesis_settings

from dynaface.services.media.uploaded import note_upload
from dynaface.services.people import sign_in
from dynaface.services.people.manage_productions import begin_production
from dynaface.services.work import Work
from dynaface.settings import from_environment
from dynaface.wiring import make_work, prepare

# The first example may have to compile a kernel; no test asserts a time.
hypothesis_settings.register_profile("untimed", deadline=None, max_examples=30)
hypothesis_settings.load_profile("untimed")


# Passwords of tests guard nothing: they are hashed quickly.
sign_in._hasher = PasswordHasher(time_cost=1, memory_cost=64, parallelism=1)
sign_in._NOBODY = sign_in._hasher.hash("nobody has this password")


@pytest.fixture(scope="session")
def settings(tmp_path_factory):
    """Settings of the test's own database and media folder, migrated and seeded with the demo."""
    if "DYNAFACE_DATABASE" not in os.environ:
        pytest.fail("no database: run the tests with ./dev test")
    os.environ.setdefault("DYNAFACE_MEDIA", str(tmp_path_factory.mktemp("media")))
    made = from_environment()
    prepare(made)
    return made


@pytest.fixture(scope="session")
def base(settings) -> Work:
    """Store, media and a queue."""
    return make_work(settings)


def add_person(work: Work, name: str) -> str:
    """A new person's id."""
    with work.store.unit() as unit:
        return unit.people.add(f"{name} {uuid4().hex[:6]}").id


@pytest.fixture
def mara(base) -> Work:
    """The work of one person."""
    return base.by(add_person(base, "Mara"))


@pytest.fixture
def production(mara) -> str:
    """A production that Mara owns."""
    return begin_production(mara, "Test").id


@pytest.fixture
def ivo(base, mara, production) -> Work:
    """A second member of the production."""
    person = add_person(base, "Ivo")
    with base.store.unit() as unit:
        unit.people.add_member(production, person, "member")
    return base.by(person)


@pytest.fixture
def stranger(base) -> Work:
    """Somebody who is no member."""
    return base.by(add_person(base, "Stranger"))


def stored(work: Work, data: bytes, name: str) -> dict[str, str]:
    """An upload to each production of the person's."""
    media, size = work.media.put_bytes(data)
    with work.store.unit() as unit:
        for production in unit.people.productions_of(work.person):
            note_upload(unit, work, production.id, media, size)
    return {"media": media, "name": name}
