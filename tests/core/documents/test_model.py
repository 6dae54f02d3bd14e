"""Records of documents: read whole or refused with the place, and the same again as plain data."""

import json

import pytest

from dynaface.core.cast.sheet import CastSheet
from dynaface.core.documents.kinds import KINDS, read_body
from dynaface.core.documents.model.cast import FRESH, CastBody, cast_body, fields_of
from dynaface.core.documents.model.dots import DotsBody, dots_fields
from dynaface.core.documents.model.layout import LayoutBody, layout_fields
from dynaface.core.documents.model.record import parse
from dynaface.core.documents.model.take import TakeBody, new_take
from dynaface.core.documents.model.tidy import Tidy, fresh_tidy, tidy_of
from dynaface.core.dots.dot import Dot, DotLayout
from dynaface.core.errors import InputError
from dynaface.core.markers.layout import Layout

ID = "0b7cbf1e-31d1-4b8a-9f4e-0c9b6f7e2a11"
OTHER = "5d0f2a64-7d1c-4b0e-8a35-8d2f3f1c9b22"
TAKE = new_take("1A", "Mara Quill").plain()
DOCUMENTS = {
    "take": {
        **TAKE,
        "sources": {"curves": ID},
        "character": OTHER,
        "tacks": {"p1": {"frame": 3, "span": 6, "shape": "jawOpen", "value": 0.5},
                 "p2": {"frame": 3, "span": 6, "point": 9, "x": 1.5, "y": 2}},
        "hand": {"jawOpen": {"mode": "keys", "keys": {"a": [0, 0.1, 0, 0, "flat"], "b": [9, 0.2, 0, 0, "free", 0.4, 0.5]}}},
        "dots": {"d1": {"kind": "put", "layout": "l", "dot": "chin", "frame": 4, "at": [10, 20]}},
        "dismissed": {"jitter 4": {"kind": "jitter", "reason": "he shivers", "first": 4, "last": 9}},
    },
    "character": {"name": "Odile", "source": ID, "versions": [{"source": OTHER, "file": "old.glb"}]},
    "card": {"name": "Mara, first day", "performer": "Mara Quill", "footage": ID, "off": {"tongueOut": True},
             "drives": {"jawOpen": {"from": "upper lip mid", "to": "chin", "reach": 12}}},
    "cast": {"performer": "Mara Quill", "character": ID, "matches": {"Face/Smile": "mouthSmileLeft", "x": {"jawOpen": 0.5}},
             "joints": {"jaw:jawOpen": None, "tail:jawOpen": {"most": 9}}, "contacts": {"lips": True, "off": {"lips 120": True}}},
    "join": {"take": ID, "matches": {"head": "Head"}, "headWeight": {"value": 0.5, "keys": {"k": [10, 0.25, 0, 0, "linear"]}}},
    "stack": {"name": "Phones", "tidy": fresh_tidy().plain()},
    "layout": {"name": "stage", "performer": "Mara Quill", "markers": ID, "places": {"m1": "chin"}, "off": {"m1": True}},
    "dots": {"name": "mount", "performer": "Mara Quill", "footage": ID, "size": [640, 480],
             "dots": {"chin": {"place": "chin", "at": [100, 200], "colour": [20, 200, 30]}}},
}  # fmt: skip


@pytest.mark.parametrize("kind", DOCUMENTS)
def test_a_record_is_the_same_again_from_its_plain_data(kind):
    body = parse(KINDS[kind], DOCUMENTS[kind])
    stored = json.loads(json.dumps(body.plain()))
    assert stored == body.plain()
    assert read_body(kind, stored) == body
    assert read_body(kind, stored).plain() == stored


@pytest.mark.parametrize("kind", DOCUMENTS)
def test_every_field_has_its_schema_and_says_what_it_names(kind):
    body = parse(KINDS[kind], DOCUMENTS[kind])
    assert body.plain()["schema"] >= 1
    named = json.dumps(body.plain())
    assert {r.id for r in body.references()} == {i for i in (ID, OTHER) if i in named}


@pytest.mark.parametrize("kind", DOCUMENTS)
def test_an_unknown_field_and_a_missing_one_are_refused_with_their_names(kind):
    with pytest.raises(InputError, match="no field 'hat'"):
        parse(KINDS[kind], {**DOCUMENTS[kind], "hat": 1})
    needed = next(
        (f.alias or n for n, f in KINDS[kind].model_fields.items() if f.is_required()), None
    )  # fmt: skip
    assert needed
    with pytest.raises(InputError, match=f"{needed} is missing"):
        parse(KINDS[kind], {k: v for k, v in DOCUMENTS[kind].items() if k != needed})


def even(**more):
    return {"step": "even out time", "rank": 1.0, **more}


@pytest.mark.parametrize(
    ("change", "where"),
    [
        ({"slate": ""}, "slate"),
        ({"slate": "x" * 81}, "slate"),
        ({"circled": "yes"}, "circled"),
        ({"circled": 1}, "circled"),
        ({"soundOffset": 99}, "soundOffset"),
        ({"soundOffset": float("nan")}, "soundOffset"),
        ({"sources": {"curves": "../etc"}}, "sources/curves"),
        ({"sources": {"hat": ID}}, "sources/hat"),
        ({"sources": None}, "sources"),
        ({"notes": None}, "notes"),
        ({"schema": 9}, "schema"),
        ({"tidy": {"steps": {}}}, "tidy"),
        ({"tidy": {"steps": {"s": {"step": "smooth", "rank": 0.0}, "e": even()}}}, "tidy"),
        ({"tidy": {"steps": {"e": even(), "f": even()}}}, "tidy"),
        ({"tidy": {"steps": {"e": even(bridge=-1)}}}, "step 1, even out time"),
        ({"tidy": {"steps": {"e": even(rank="first")}}}, "tidy/steps/e/rank"),
        ({"hand": {"jawOpen": {"mode": "keys", "keys": {}}}}, "jawOpen"),
        ({"hand": {"jawOpen": {"mode": "keys", "keys": {"k": [0, 1, 0, 0, "wavy"]}}}}, "hand/jawOpen/keys/k/4"),
        ({"hand": {"jawOpen": {"mode": "keys", "keys": {"k": [5, 1, 0, 0, "flat"], "l": [5, 1, 0, 0, "flat"]}}}}, "jawOpen, key 2"),
        ({"dismissed": {"a": {"kind": "gap"}}}, "dismissed/a/reason"),
        ({"dots": {"d": {"kind": "put", "layout": "l", "dot": "chin", "frame": 1, "at": [1]}}}, "dots/d/at/1"),
        ({"tacks": {"p": {"frame": 1, "span": 2, "shape": "jawOpen", "value": 0.5, "x": 1}}}, "tacks/p/x"),
    ],
)  # fmt: skip
def test_takes_that_may_not_be_so_are_refused_with_the_place(change, where):
    with pytest.raises(InputError) as caught:
        parse(TakeBody, {**TAKE, **change})
    assert caught.value.where == where


@pytest.mark.parametrize(
    "places",
    [[{"channels": 5}], 5, [5], [{"first": "a"}]],
)
def test_places_of_a_step_that_are_none_are_refused(places):
    with pytest.raises(InputError):
        parse(
            TakeBody, {**TAKE, "tidy": {"steps": {"e": even(), "s": {"step": "smooth", "rank": 2.0, "places": places}}}}
        )


def test_steps_run_in_the_order_of_their_ranks_and_ids_decide_between_equals():
    tidy = tidy_of(({"step": "even out time"}, {"step": "smooth"}, {"step": "strength"}), ("even", "b", "a"))
    assert [p.step.name for p in tidy.stack] == ["even out time", "smooth", "strength"]
    plain = tidy.plain()
    plain["steps"]["a"]["rank"] = plain["steps"]["b"]["rank"]
    assert parse(Tidy, plain).order == ("even", "a", "b")


def test_a_sheet_is_the_same_again_from_its_document():
    sheet = parse(CastBody, DOCUMENTS["cast"]).sheet
    assert sheet.matches["Face/Smile"] == (("mouthSmileLeft", 1.0),)
    assert sheet.contacts.off == frozenset({"lips 120"})
    assert cast_body("Mara Quill", ID, sheet).sheet == sheet
    assert cast_body("Mara Quill", ID).sheet == FRESH
    assert parse(CastBody, {"performer": "", "character": ID, **fields_of(CastSheet())}).sheet == CastSheet()


def test_layouts_are_the_same_again_from_their_documents():
    layout = Layout({"m1": "chin", "m2": "nose tip"}, (3, 9), {"jawOpen": 40}, ("m2",))
    assert parse(LayoutBody, {"name": "a", "performer": "", "markers": ID, **layout_fields(layout)}).layout == layout
    dots = DotLayout(
        (640, 480), (Dot("chin", "chin", (10.0, 20.0), (20.0, 200.0, 30.0), 4.0),), samples={"jawOpen": 40}
    )
    assert parse(DotsBody, {"name": "a", "performer": "", "footage": ID, **dots_fields(dots)}).layout == dots


def test_a_document_of_no_kind_is_refused():
    with pytest.raises(InputError, match="no kind of document 'hat'"):
        read_body("hat", {})


@pytest.mark.parametrize("weight", [{"value": 1.2, "keys": {}}, {"value": 1, "keys": {"k": [4, 1.4, 0, 0, "flat"]}}])
def test_the_head_is_nobodys_by_more_than_the_whole(weight):
    with pytest.raises(InputError, match="headWeight"):
        parse(KINDS["join"], {"take": ID, "headWeight": weight})
