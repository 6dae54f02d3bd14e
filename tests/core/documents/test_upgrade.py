"""Bodies as the first release stored them, in its own words, read by this one."""

import pytest

from dynaface.core.documents.kinds import KINDS, read_body
from dynaface.core.documents.upgrade import UPGRADES, upgraded
from dynaface.core.errors import InputError

ID = "0b7cbf1e-31d1-4b8a-9f4e-0c9b6f7e2a11"
STORED = {
    "take": {
        "slate": "4A / 1", "performer": "Mara Quill", "notes": "", "circled": True, "archived": False,
        "sources": {"curves": ID}, "soundOffset": -0.15, "character": ID,
        "tidy": {
            "order": ["even", "strength", "smooth"],
            "steps": {"even": {"step": "even out time", "on": True}, "smooth": {"step": "smooth", "on": True, "amount": {"lips": 0.4}},
                      "strength": {"step": "strength", "on": True}},
        },
        "hand": {"jawOpen": {"mode": "keys", "keys": [[0.0, 0.1, 0.0, 0.0, "flat"], [12.0, 0.4, 0.01, 0.0, "free", 0.4, 0.5]]}},
        "pins": {"p1": {"frame": 3, "span": 6, "shape": "jawOpen", "value": 0.5}},
    },
    "character": {"name": "Odile", "source": ID, "archived": False},
    "card": {"name": "Mara, first day", "performer": "Mara Quill", "day": "2026-11-02", "footage": ID, "neutral": [0, 20],
             "samples": {"jawOpen": 40}, "source": ID, "off": ["tongueOut"]},
    "cast": {"performer": "Mara Quill", "character": ID, "regionStrength": {"lips": 0.9}, "shapeStrength": {}, "matches": {},
             "contacts": {"lips": True, "lids": True, "off": ["lips 120"]}},
    "join": {"take": ID, "headWeight": 1.0, "nudge": 0.0},
    "stack": {"name": "Phones", "tidy": {"order": ["even"], "steps": {"even": {"step": "even out time"}}}},
    "bodystack": {"schema": 1, "name": "calm", "tidy": {"s": {"step": "smooth", "rank": 1.0, "groups": ["armLeft"], "amount": 0.4}}},
    "layout": {"name": "stage", "performer": "Mara Quill", "day": "2026-11-02", "markers": ID, "places": {"m1": "chin"},
               "neutral": [0, 30], "samples": {}, "off": ["m1"]},
    "dots": {"name": "mount", "performer": "Mara Quill", "day": "2026-11-02", "footage": ID, "size": [640, 480], "fov": 60.0,
             "tolerance": 0.09, "dots": {}, "neutral": [0, 10], "samples": {}, "drives": {}, "moves": "neither"},
    "shot": {"schema": 1, "name": "Ferry landing", "rate": "60", "timecode": "10:04:10:00", "length": "33/2", "roles": {
        "r1": {"character": ID, "performer": "Mara Quill", "rank": 0.0, "at": [0.0, 0.0, 0.7], "turn": 8.0,
               "placements": {"p1": {"clip": ID, "start": "0", "first": "0", "last": "82/15", "repeats": "2", "seam": "1/3"}},
               "capture": {"lips": {"value": 0.8, "keys": {"k1": [10.0, 0.6, 0.0, 0.0, "linear"]}}}}},
        "sounds": {"s1": {"source": ID, "start": "-1/2", "first": "0", "last": "3", "gain": 0.5}}},
    "clip": {"schema": 1, "name": "Odile_4A-1_01", "take": ID, "first": "0", "last": "82/15"},
    "layer": {"schema": 1, "shot": ID, "role": "r1", "name": "warmer", "rank": 1.0, "does": "add", "regions": {"lips": True},
              "keys": {"jawOpen": {"k1": [4.0, 0.1, 0.0, 0.0, "smooth"]}},
              "spans": {"s1": {"first": 70.0, "last": 130.0, "leadIn": 10.0, "offset": {"mouthSmileLeft": 0.18}}},
              "makers": {"m1": {"maker": "blinks", "rank": 1.0, "captured": "replace"}}},
    "words": {"schema": 1, "sound": ID, "text": "the lamp", "language": "en",
              "words": {"w1": {"word": "the", "first": 0.9, "last": 1.0, "phones": [["DH", 0.5], ["AH", 1.0]]}}},
    "pose": {"schema": 1, "name": "sour", "values": {"mouthPucker": 0.5, "headNod": -4.0}, "picture": "data:image/webp;base64,AAAA"},
    "profiles": {"schema": 1, "profiles": {"plain": {"upper": [[0, 0], [0.3, 1], [1, 0]], "lower": [[0, 0], [0.4, 0.5], [1, 0]]}}},
    "presets": {"schema": 1, "presets": {"engine": {"forms": {"gltf": {}}, "options": {"rate": "30", "tolerance": 0.001}, "pattern": "{name}"}}},
    "lineup": {"schema": 1, "name": "the lamp", "rate": "60", "timecode": "10:04:10:00", "sources": {
        f"{ID} face": {"take": ID, "part": "face", "start": "1001/60000", "how": "timecode", "confidence": 1.0},
        f"{ID} body": {"take": ID, "part": "body"}}},
    "feedprofile": {"schema": 1, "performer": "Mara Quill", "neutral": {"jawOpen": 0.1}, "mirror": True},
    "measures": {"schema": 1, "performer": "Mara Quill", "height": 1.68, "hips": 0.86},
    "match": {"schema": 1, "name": "suit on Odile", "body": "0f" * 8, "character": "1e" * 8, "matches": {"hips": "Hips", "tail": ""},
              "turns": {"upperArmLeft": [0.0, 0.0, 12.0]}, "rest": {"Hips": [0.0, 0.0, 0.0, 1.0]}},
}  # fmt: skip


@pytest.mark.parametrize("kind", KINDS)
def test_what_the_first_release_stored_is_read(kind):
    body = read_body(kind, STORED[kind])
    assert body.plain()["schema"] == len(UPGRADES[kind]) + 1
    assert read_body(kind, body.plain()) == body


def test_a_take_keeps_its_order_and_its_keys():
    take = read_body("take", STORED["take"])
    assert [p.step.name for p in take.tidy.stack] == ["even out time", "strength", "smooth"]
    assert take.tidy.stack[2].parameters["amount"]["lips"] == 0.4
    keys = take.by_hand["jawOpen"].keys
    assert [(k.frame, k.value, k.weight_before) for k in keys] == [(0.0, 0.1, 1 / 3), (12.0, 0.4, 0.4)]
    assert len({k.id for k in keys}) == 2


def test_what_was_set_by_hand_is_a_tack_now():
    (tack,) = read_body("take", STORED["take"]).tacked
    assert (tack.frame, tack.shape, tack.value) == (3, "jawOpen", 0.5)


def test_what_was_switched_off_stays_so():
    assert read_body("card", STORED["card"]).left_out == ("tongueOut",)
    assert read_body("cast", STORED["cast"]).sheet.contacts.off == frozenset({"lips 120"})
    assert read_body("layout", STORED["layout"]).layout.off == ("m1",)


def test_a_body_that_stayed_in_place_walks_on_the_spot():
    assert read_body("join", {**STORED["join"], "travel": False}).settings.travel == "spot"
    assert read_body("join", STORED["join"]).settings.travel == "scaled"


def test_a_take_that_lost_fields_is_read_again():
    lost = {k: v for k, v in STORED["take"].items() if k not in ("notes", "sources", "performer")}
    take = read_body("take", lost)
    assert (take.notes, take.sources.held, take.performer) == ("", {}, "")


@pytest.mark.parametrize("number", [0, 99, "2", None, True])
def test_a_schema_that_this_release_does_not_know_is_refused(number):
    with pytest.raises(InputError, match="schema"):
        upgraded("take", {**STORED["take"], "schema": number})


@pytest.mark.parametrize(
    "damage", [{"hand": 5}, {"hand": {"jawOpen": 5}}, {"tidy": 7}, {"tidy": {"order": 3, "steps": {"a": 1}}}]
)
def test_a_damaged_body_is_refused_and_nothing_else(damage):
    with pytest.raises(InputError):
        read_body("take", {**STORED["take"], **damage})
