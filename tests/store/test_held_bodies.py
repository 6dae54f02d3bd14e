"""Bodies that are held are those that are stored."""

import pytest

from dynaface.core.documents.model.stack import StackBody
from dynaface.core.documents.model.tidy import fresh_tidy
from dynaface.core.errors import InputError
from dynaface.store.repositories import held_bodies
from dynaface.store.repositories.held_bodies import MOST, held_body, hold_body


def plain(name):
    return {"schema": 2, "archived": False, "name": name, "tidy": fresh_tidy().plain()}


def test_a_body_is_held_for_the_row_that_it_was_read_from():
    body = hold_body("a", "stack", "1", plain("usual"))
    assert held_body("a", "stack", "1") is body


def test_another_write_of_the_row_is_another_body():
    hold_body("b", "stack", "1", plain("usual"))
    assert held_body("b", "stack", "2") is None
    assert hold_body("b", "stack", "2", plain("other")).name == "other"
    assert held_body("b", "other kind", "2") is None


def test_a_damaged_body_says_so_and_is_not_held():
    hold_body("c", "stack", "1", plain("usual"))
    with pytest.raises(InputError):
        hold_body("c", "stack", "2", plain("usual") | {"name": 3})
    assert held_body("c", "stack", "2") is None
    with pytest.raises(InputError, match="no kind"):
        hold_body("c", "nothing", "2", plain("usual"))


def test_no_more_are_held_than_may_be():
    for n in range(MOST + 5):
        hold_body(f"many {n}", "stack", "1", plain("usual"))
    assert len(held_bodies._held) == MOST


def test_a_row_that_is_written_without_a_version_is_read_again(base, mara, production):
    with mara.store.unit() as unit:
        made = unit.documents.add(production, StackBody.model_validate(plain("usual")))
    with mara.store.unit() as unit:
        assert unit.documents.get(made.id) == unit.documents.get(made.id)
        unit.documents.save(made.id, made.version, StackBody.model_validate(plain("written")))
        assert unit.documents.get(made.id).body.name == "written"
        unit.documents.save(made.id, made.version, StackBody.model_validate(plain("and again")))
        assert unit.documents.get(made.id).body.name == "and again"
    with mara.store.snapshot() as unit:
        assert [d.body.name for d in unit.documents.of_kind(production, StackBody)] == ["and again"]


def test_what_was_written_and_taken_back_is_not_held(base, mara, production):
    with mara.store.unit() as unit:
        made = unit.documents.add(production, StackBody.model_validate(plain("usual")))

    def write_and_fail():
        with mara.store.unit() as unit:
            unit.documents.save(made.id, 2, StackBody.model_validate(plain("taken back")))
            assert unit.documents.get(made.id).body.name == "taken back"
            raise RuntimeError

    with pytest.raises(RuntimeError):
        write_and_fail()
    with mara.store.unit() as unit:
        assert unit.documents.get(made.id).body.name == "usual"
        unit.documents.save(made.id, 2, StackBody.model_validate(plain("kept")))
    with mara.store.snapshot() as unit:
        assert unit.documents.get(made.id).body.name == "kept"
