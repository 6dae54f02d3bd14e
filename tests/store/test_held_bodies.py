"""Bodies that are held are those that are stored."""

import pytest

from dynaface.core.documents.model.tidy import fresh_tidy
from dynaface.core.errors import InputError
from dynaface.store.repositories import held_bodies
from dynaface.store.repositories.held_bodies import MOST, body_of


def plain(name):
    return {"schema": 2, "archived": False, "name": name, "tidy": fresh_tidy().plain()}


def test_the_same_body_is_read_once():
    assert body_of("a", "stack", plain("usual")) is body_of("a", "stack", plain("usual"))


def test_a_change_without_a_version_is_seen():
    body_of("b", "stack", plain("usual"))
    assert body_of("b", "stack", plain("other")).name == "other"


def test_a_damaged_body_says_so_though_a_sound_one_was_held():
    body_of("c", "stack", plain("usual"))
    with pytest.raises(InputError):
        body_of("c", "stack", plain("usual") | {"name": 3})
    with pytest.raises(InputError, match="no kind"):
        body_of("c", "nothing", plain("usual"))


def test_no_more_are_held_than_may_be():
    for n in range(MOST + 5):
        body_of(f"many {n}", "stack", plain("usual"))
    assert len(held_bodies._held) == MOST
