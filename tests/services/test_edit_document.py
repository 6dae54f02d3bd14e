import pytest

from dynaface.core.errors import ConflictError, InputError, NotFoundError
from dynaface.services.edit_document import edit_document, history_state, redo, undo
from dynaface.services.import_take import import_take
from dynaface.services.work import Work
from dynaface.store.unit import Store
from tests.conftest import stored
from tests.makers import table


@pytest.fixture
def take(mara, production):
    return import_take(mara, production, "1A", "Mara Quill", [stored(mara, table(), "a.csv")])


def put(work, take, path, value, version=None, label="change"):
    with work.store.unit() as unit:
        now = unit.documents.get(take.id)
    return edit_document(
        work, take.id, now.version if version is None else version, label, [{"path": path, "value": value}]
    )


def body(work, take):
    with work.store.unit() as unit:
        return unit.documents.get(take.id).body


def test_undo_and_redo_step_through_own_changes(mara, take):
    put(mara, take, "notes", "one", label="note one")
    put(mara, take, "notes", "two", label="note two")
    assert history_state(mara, [take.id]) == {"undo": "note two", "redo": ""}
    assert undo(mara, [take.id])[1] == "note two"
    assert undo(mara, [take.id])[1] == "note one"
    assert body(mara, take)["notes"] == ""
    with pytest.raises(InputError, match="nothing to undo"):
        undo(mara, [take.id])
    assert redo(mara, [take.id])[1] == "note one"
    assert redo(mara, [take.id])[1] == "note two"
    assert body(mara, take)["notes"] == "two"
    with pytest.raises(InputError, match="nothing to redo"):
        redo(mara, [take.id])


def test_a_new_change_ends_what_could_be_redone(mara, take):
    put(mara, take, "notes", "one")
    undo(mara, [take.id])
    put(mara, take, "circled", True)
    assert history_state(mara, [take.id])["redo"] == ""


def test_history_outlives_the_server(mara, take, settings):
    put(mara, take, "notes", "kept", label="a note")
    again = Work(Store(settings.database), mara.media, mara.defer, person=mara.person)
    assert undo(again, [take.id])[1] == "a note"
    assert body(again, take)["notes"] == ""


def test_each_person_has_a_history_of_their_own(mara, ivo, take):
    put(mara, take, "notes", "mine")
    put(ivo, take, "circled", True)
    undo(mara, [take.id])
    assert body(mara, take)["notes"] == ""
    assert body(mara, take)["circled"] is True


def test_undo_names_who_changed_the_same_since(mara, ivo, take):
    put(mara, take, "notes", "mine", label="note of mine")
    put(ivo, take, "notes", "his", label="note of his")
    with pytest.raises(ConflictError) as caught:
        undo(mara, [take.id])
    assert caught.value.who.startswith("Ivo")
    assert caught.value.what == "note of his"
    assert body(mara, take)["notes"] == "his"


def test_an_edit_on_an_old_version_merges_with_changes_elsewhere(mara, ivo, take):
    put(ivo, take, "circled", True, version=1)
    put(mara, take, "notes", "also", version=1)
    assert (body(mara, take)["circled"], body(mara, take)["notes"]) == (True, "also")


def test_an_edit_on_an_old_version_of_the_same_place_is_a_conflict(mara, ivo, take):
    put(ivo, take, "notes", "his", version=1, label="his note")
    with pytest.raises(ConflictError, match="his note"):
        put(mara, take, "notes", "mine", version=1)


def test_a_change_that_may_not_be_leaves_all_as_it_was(mara, take):
    with pytest.raises(InputError, match="slate"):
        put(mara, take, "slate", "")
    with pytest.raises(InputError, match="no tidy step"):
        put(mara, take, "tidy/steps/smooth/step", "polish")
    assert body(mara, take)["slate"] == "1A"
    assert history_state(mara, [take.id])["undo"] == ""


def test_strangers_see_nothing(stranger, take):
    with pytest.raises(NotFoundError):
        edit_document(stranger, take.id, 1, "x", [{"path": "notes", "value": "x"}])
    with pytest.raises(NotFoundError):
        undo(stranger, [take.id])
    with pytest.raises(NotFoundError):
        history_state(stranger, [take.id])


def test_undo_picks_the_newest_change_over_several_documents(mara, production, take):
    other = import_take(mara, production, "2A", "", [stored(mara, table(rows=30), "b.csv")])
    put(mara, take, "notes", "first", label="on the first")
    put(mara, other, "notes", "second", label="on the second")
    assert undo(mara, [take.id, other.id])[1] == "on the second"
    assert undo(mara, [take.id, other.id])[1] == "on the first"
