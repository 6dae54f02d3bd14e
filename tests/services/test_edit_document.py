from concurrent.futures import ThreadPoolExecutor

import pytest
from sqlalchemy import text

from dynaface.assets import ASSETS
from dynaface.core.documents.model.cast import CastBody
from dynaface.core.documents.model.join import JoinBody
from dynaface.core.errors import ConflictError, InputError, NotFoundError
from dynaface.services.edit_document import edit_document, history_state, redo, undo
from dynaface.services.people.manage_productions import begin_production
from dynaface.services.shot.make_shot import make_shot
from dynaface.services.take.edit_keys import edit_keys
from dynaface.services.take.import_take import import_character, import_take
from dynaface.services.take.open_take import list_takes, open_take, see_take
from dynaface.services.take.prepare_take import prepare_take
from dynaface.services.take.snapshot import Wish
from dynaface.services.work import Work
from dynaface.store.unit import Store
from tests.conftest import stored
from tests.makers import table


@pytest.fixture
def take(mara, production):
    return import_take(mara, production, "1A", "Mara Quill", [stored(mara, table(), "a.csv")])


@pytest.fixture
def odile(mara, production):
    return import_character(
        mara, production, "Odile", stored(mara, (ASSETS / "characters/odile.glb").read_bytes(), "odile.glb")
    )


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
    assert body(mara, take).notes == ""
    with pytest.raises(InputError, match="nothing to undo"):
        undo(mara, [take.id])
    assert redo(mara, [take.id])[1] == "note one"
    assert redo(mara, [take.id])[1] == "note two"
    assert body(mara, take).notes == "two"
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
    assert body(again, take).notes == ""


def test_each_person_has_a_history_of_their_own(mara, ivo, take):
    put(mara, take, "notes", "mine")
    put(ivo, take, "circled", True)
    undo(mara, [take.id])
    assert body(mara, take).notes == ""
    assert body(mara, take).circled is True


def test_undo_names_who_changed_the_same_since(mara, ivo, take):
    put(mara, take, "notes", "mine", label="note of mine")
    put(ivo, take, "notes", "his", label="note of his")
    with pytest.raises(ConflictError) as caught:
        undo(mara, [take.id])
    assert caught.value.who.startswith("Ivo")
    assert caught.value.what == "note of his"
    assert body(mara, take).notes == "his"


def test_an_edit_on_an_old_version_merges_with_changes_elsewhere(mara, ivo, take):
    put(ivo, take, "circled", True, version=1)
    put(mara, take, "notes", "also", version=1)
    assert (body(mara, take).circled, body(mara, take).notes) == (True, "also")


def test_an_edit_on_an_old_version_of_the_same_place_is_a_conflict(mara, ivo, take):
    put(ivo, take, "notes", "his", version=1, label="his note")
    with pytest.raises(ConflictError, match="his note"):
        put(mara, take, "notes", "mine", version=1)


def test_a_change_that_may_not_be_leaves_all_as_it_was(mara, take):
    with pytest.raises(InputError, match="slate"):
        put(mara, take, "slate", "")
    with pytest.raises(InputError, match="no tidy step"):
        put(mara, take, "tidy/steps/smooth/step", "polish")
    assert body(mara, take).slate == "1A"
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


def test_redo_takes_what_was_undone_last_over_several_documents(mara, production, take):
    other = import_take(mara, production, "2A", "", [stored(mara, table(rows=30), "b.csv")])
    put(mara, other, "notes", "older", label="on the other")
    put(mara, take, "notes", "newer", label="on the take")
    undo(mara, [take.id])
    undo(mara, [other.id])
    assert history_state(mara, [take.id, other.id])["redo"] == "on the other"
    assert redo(mara, [take.id, other.id])[1] == "on the other"
    assert redo(mara, [take.id, other.id])[1] == "on the take"


def test_nested_changes_of_one_edit_are_undone_and_redone_together(mara, take):
    tack = {"frame": 1, "span": 2, "shape": "jawOpen", "value": 0.5}
    wanted = [
        {"path": "tacks", "value": {}},
        {"path": "tacks/a", "value": tack},
        {"path": "tacks/a/value", "value": 0.7},
    ]
    edit_document(mara, take.id, 1, "tacks", wanted)
    assert body(mara, take).tacks["a"].value == 0.7
    undo(mara, [take.id])
    assert body(mara, take).tacks == {}
    redo(mara, [take.id])
    assert body(mara, take).tacks["a"].value == 0.7


def test_two_people_change_different_shapes_of_one_sheet_and_both_stay(mara, ivo, take, odile):
    cast = open_take(mara, take.id).cast
    edit_document(ivo, cast.id, cast.version, "lips", [{"path": "regionStrength/lips", "value": 0.8}])
    edit_document(mara, cast.id, cast.version, "jaw", [{"path": "regionStrength/jaw", "value": 0.9}])
    assert open_take(mara, take.id).cast.body.region_strength == {"lips": 0.8, "jaw": 0.9}
    undo(ivo, [cast.id])
    assert open_take(mara, take.id).cast.body.region_strength == {"jaw": 0.9}


def test_one_person_in_two_tabs_loses_nothing(mara, take, odile):
    cast = open_take(mara, take.id).cast
    for region in ("lips", "jaw", "brows"):
        edit_document(mara, cast.id, cast.version, region, [{"path": f"regionStrength/{region}", "value": 0.5}])
    assert set(open_take(mara, take.id).cast.body.region_strength) == {"lips", "jaw", "brows"}


def test_two_people_move_different_keys_of_one_curve_and_both_stay(mara, ivo, take):
    rows = {f"k{n}": [float(n * 10), 0.1, 0.0, 0.0, "flat"] for n in range(5)}
    put(mara, take, "hand", {"jawOpen": {"mode": "keys", "keys": rows}})
    now = open_take(mara, take.id).take.version
    edit_keys(ivo, take.id, now, "his", {"do": "value", "channels": {"jawOpen": ["k1"]}, "value": 0.6})
    edit_keys(mara, take.id, now, "mine", {"do": "value", "channels": {"jawOpen": ["k3"]}, "value": 0.9})
    assert [k.value for k in body(mara, take).by_hand["jawOpen"].keys] == [0.1, 0.6, 0.1, 0.9, 0.1]
    with pytest.raises(InputError, match="no key 'k9'"):
        edit_keys(mara, take.id, now, "gone", {"do": "value", "channels": {"jawOpen": ["k9"]}, "value": 0.6})


def test_a_moved_key_of_twenty_thousand_is_a_small_entry(mara, production):
    long = import_take(mara, production, "long", "", [stored(mara, table(rows=60), "a.csv")])
    rows = {f"k{n}": [float(n), 0.1, 0.0, 0.0, "flat"] for n in range(20_000)}
    put(mara, long, "hand", {"jawOpen": {"mode": "keys", "keys": rows}})
    before = history_bytes(mara)
    edit = {"do": "move", "channels": {"jawOpen": ["k500"]}, "frames": 0, "value": 0.25}
    edit_keys(mara, long.id, open_take(mara, long.id).take.version, "move a key", edit)
    assert 0 < history_bytes(mara) - before < 1000
    undo(mara, [long.id])
    assert open_take(mara, long.id).take.body.hand["jawOpen"].keys["k500"][1] == 0.1


def history_bytes(work):
    with work.store.unit() as unit:
        query = "SELECT coalesce(sum(pg_column_size(history.*)), 0) FROM history WHERE person = :person"
        return unit.connection.execute(text(query), {"person": work.person}).scalar_one()


@pytest.mark.parametrize(
    ("path", "value"),
    [
        ("sources", None), ("sources", 5), ("notes", None), ("tidy", None), ("hand", {"jawOpen": 5}), ("slate", None),
        ("tacks", {"a": 5}), ("dismissed", {"a": None}), ("sources/curves", "x"), ("tidy/steps/smooth/places", [{"channels": 5}]),
    ],
)  # fmt: skip
def test_no_edit_makes_a_take_or_a_list_unreadable(mara, production, take, path, value):
    with pytest.raises(InputError):
        put(mara, take, path, value)
    for needed in ("notes", "sources", "tidy", "slate"):
        try:
            edit_document(mara, take.id, take.version, "remove", [{"path": needed, "remove": True}])
        except InputError:
            continue
    assert [row["id"] for row in list_takes(mara, production)] == [take.id]
    assert open_take(mara, take.id).take.body.sources.curves == take.body.sources.curves


def test_what_a_document_belongs_to_never_changes(mara, take, odile):
    opened = open_take(mara, take.id)
    for document, path in (
        (opened.cast, "performer"),
        (opened.cast, "character"),
        (opened.join, "take"),
        (take, "schema"),
    ):
        with pytest.raises(InputError, match="never changes"):
            edit_document(mara, document.id, 1, "try", [{"path": path, "value": "x"}])


def test_a_source_of_another_production_can_be_neither_named_nor_evaluated(mara, take):
    other = begin_production(mara, "Other").id
    foreign = import_take(mara, other, "secret", "", [stored(mara, table(rows=40), "b.csv")]).body.sources.curves
    with pytest.raises(InputError, match="no curves of this production"):
        put(mara, take, "sources/curves", foreign)
    with mara.store.unit() as unit:  # as though it had been written by an earlier release
        found = unit.documents.get(take.id)
        sources = found.body.sources.model_copy(update={"curves": foreign})
        unit.documents.save(take.id, 2, found.body.model_copy(update={"sources": sources}))
    assert open_take(mara, take.id).sources == {}
    assert list_takes(mara, take.production)[0]["holds"] == []
    with pytest.raises(InputError, match="no curves"):
        prepare_take(mara, take.id)
    with pytest.raises(NotFoundError):
        prepare_take(mara, take.id, Wish(curves=foreign))


@pytest.mark.parametrize("path", ["sources/sound", "sources/footage", "character"])
def test_a_source_of_another_kind_is_refused(mara, take, path):
    with pytest.raises(InputError, match="of this production"):
        put(mara, take, path, take.body.sources.curves)


def test_sixty_who_open_a_take_at_once_share_one_sheet_and_one_join(mara, take, odile):
    with ThreadPoolExecutor(12) as pool:
        opened = list(pool.map(lambda _: open_take(mara, take.id), range(60)))
    assert len({(o.cast.id, o.join.id) for o in opened}) == 1


def test_looking_at_a_take_writes_nothing(mara, take, odile):
    seen = see_take(mara, take.id)
    assert (seen.cast.id, seen.join.id) == ("", "")
    assert seen.cast.body.sheet.contacts.lips
    assert prepare_take(mara, take.id).performance.root_joint == ""
    with mara.store.unit() as unit:
        assert (
            unit.documents.of_kind(take.production, CastBody) == unit.documents.of_kind(take.production, JoinBody) == []
        )


def test_undo_works_over_all_documents_of_a_large_shot(mara, production):
    shot = make_shot(mara, production, "Long")
    longer = [{"path": "name", "value": "Longer"}]
    names = [edit_document(mara, shot.id, shot.version, "name", longer).id]
    names += [make_shot(mara, production, f"{n}").id for n in range(60)]
    assert history_state(mara, names)["undo"] == "name"
    assert undo(mara, names)[1] == "name"
    assert redo(mara, names)[1] == "name"


def test_history_of_what_somebody_else_has_or_nobody_is_not_told(mara, stranger, production):
    shot = make_shot(mara, production, "Mine")
    for names in ([shot.id], ["00000000-0000-4000-8000-000000000000"]):
        with pytest.raises(NotFoundError):
            history_state(stranger, names)
        with pytest.raises(NotFoundError):
            undo(stranger, names)
