"""Keys of layers edited with the key kit, on the real database."""

import numpy as np
import pytest

from dynaface.assets import ASSETS
from dynaface.core.errors import ConflictError, InputError
from dynaface.services.edit_document import edit_document, redo, undo
from dynaface.services.pieces import Piece
from dynaface.services.shot.edit_layer_keys import edit_layer_keys
from dynaface.services.shot.evaluate_shot import evaluate_role
from dynaface.services.shot.make_shot import add_layer, make_shot
from dynaface.services.shot.open_shot import open_shot
from dynaface.services.shot.preview_role import RoleTrial, preview_role
from dynaface.services.shot.snapshot import ShotWish
from dynaface.services.take.import_take import import_take
from tests.conftest import stored
from tests.services.evaluated import put

DRAWN = {"do": "draw", "channels": {"jawOpen": []}, "points": [[60, 0.3], [90, 0.5]]}


@pytest.fixture
def shot(mara, production):
    lamp = stored(mara, (ASSETS / "demo/mara_lamp.csv").read_bytes(), "mara_lamp.csv")
    take = import_take(mara, production, "4A", "Mara Quill", [lamp])
    return make_shot(mara, production, "Ferry landing", takes=[take.id])


@pytest.fixture
def layer(mara, shot):
    return new_layer(mara, shot, "lip", [])


def new_layer(work, shot, name, regions):
    return add_layer(work, shot.id, shot.body.ordered[0], name, "add", regions)


def face(work, shot, channel="jawOpen", evaluate=evaluate_role, **more):
    head, arrays = evaluate(work, shot.id, shot.body.ordered[0], [Piece("tidied")], **more)
    return np.nan_to_num(arrays["tidied"][:, head["channels"].index(channel)])


def newest(work, shot, layer):
    return next(n for n in open_shot(work, shot.id).layers if n.id == layer.id)


def test_a_stroke_lands_in_the_layer_and_is_undone_and_redone(mara, shot, layer):
    before = face(mara, shot)
    made, report = edit_layer_keys(mara, layer.id, layer.version, "draw a curve", DRAWN)
    assert report["jawOpen"]["mode"] == "offset"
    assert face(mara, shot)[60:91] == pytest.approx(np.interp(np.arange(60, 91), [60, 90], [0.3, 0.5]), abs=0.01)
    undo(mara, [made.id])
    assert np.array_equal(face(mara, shot), before)
    redo(mara, [made.id])
    assert face(mara, shot)[75] == pytest.approx(0.4, abs=0.01)


def test_what_a_drag_shows_is_what_it_keeps_and_stores_nothing(mara, shot, layer):
    shown = face(mara, shot, evaluate=preview_role, wish=ShotWish(), trial=RoleTrial(layer.id, DRAWN))
    assert newest(mara, shot, layer).version == layer.version
    edit_layer_keys(mara, layer.id, layer.version, "draw a curve", DRAWN)
    assert face(mara, shot) == pytest.approx(shown, abs=1e-6)


def test_only_the_keys_that_were_changed_are_changed(mara, shot, layer):
    keys = {"a": [10, 0.1, 0, 0, "smooth"], "b": [50, 0.4, 0, 0, "smooth"]}
    made = edit_document(mara, layer.id, layer.version, "keys", [put("keys/jawOpen", keys)])
    moved = {"do": "move", "channels": {"jawOpen": ["b"]}, "frames": 7, "value": 0.1}
    after = edit_layer_keys(mara, layer.id, made.version, "move a key", moved)[0]
    rows = after.body.plain()["keys"]["jawOpen"]
    assert rows == {"a": keys["a"], "b": [57, 0.5, 0, 0, "smooth"]}
    gone = edit_layer_keys(
        mara, layer.id, after.version, "take off", {"do": "clear", "channels": {"jawOpen": [], "cheekPuff": []}}
    )[0]
    assert gone.body.plain()["keys"] == {}


def test_two_people_move_different_keys_and_the_same_key_is_no_silent_loss(mara, ivo, shot, layer):
    keys = {"a": [10, 0.1, 0, 0, "smooth"], "b": [50, 0.4, 0, 0, "smooth"]}
    base = edit_document(mara, layer.id, layer.version, "keys", [put("keys/jawOpen", keys)]).version

    def move(who, key, frames):
        edit = {"do": "move", "channels": {"jawOpen": [key]}, "frames": frames}
        return edit_layer_keys(who, layer.id, base, "move a key", edit)[0]

    move(mara, "a", 3)
    both = move(ivo, "b", 4).body.plain()["keys"]["jawOpen"]
    assert (both["a"][0], both["b"][0]) == (13, 54)
    with pytest.raises(ConflictError, match="Mara"):
        move(ivo, "a", 9)


def test_a_locked_layer_and_a_region_out_of_reach_say_so(mara, shot, layer):
    locked = edit_document(mara, layer.id, layer.version, "lock", [put("locked", True)])
    with pytest.raises(InputError, match="lip is locked"):
        edit_layer_keys(mara, layer.id, locked.version, "draw", DRAWN)
    brows = new_layer(mara, shot, "brows", ["brows"])
    with pytest.raises(InputError, match="the layer brows reaches brows, not jawOpen"):
        edit_layer_keys(mara, brows.id, brows.version, "draw", DRAWN)
    both = {"do": "insert", "channels": {"jawOpen": [], "browInnerUp": []}, "frame": 30}
    keyed = edit_layer_keys(mara, brows.id, brows.version, "insert", both)[0]
    assert set(keyed.body.plain()["keys"]) == {"browInnerUp"}


def test_a_layer_that_is_left_out_takes_keys_but_no_strokes(mara, shot, layer):
    mute = edit_document(mara, layer.id, layer.version, "mute", [put("mute", True)])
    begun = edit_layer_keys(mara, layer.id, mute.version, "begin", {"do": "correct", "channels": {"jawOpen": []}})[0]
    assert len(begun.body.plain()["keys"]["jawOpen"]) == 2
    with pytest.raises(InputError, match="does not follow this layer"):
        edit_layer_keys(mara, layer.id, begun.version, "draw", DRAWN)


def test_a_version_is_kept_beside_what_counts_and_swapped_with_it(mara, shot, layer):
    drawn = edit_layer_keys(mara, layer.id, layer.version, "draw a curve", DRAWN)[0]
    before, says = face(mara, shot), drawn.body.plain()
    kept = {f: says[f] for f in ("name", "does", "regions", "weight", "keys", "spans", "makers")}
    held = edit_document(mara, layer.id, drawn.version, "keep", [put("kept/v", kept), put("folder", "lips")])
    bare = edit_document(mara, layer.id, held.version, "clear", [put("keys", {})])
    assert np.abs(face(mara, shot) - before).max() > 0.1
    edit_document(mara, layer.id, bare.version, "swap", [put("keys", kept["keys"]), put("kept/v/keys", {})])
    assert np.array_equal(face(mara, shot), before)
    with pytest.raises(InputError):
        edit_document(mara, layer.id, bare.version, "worse", [put("kept/v/weight", {"value": 9})])
