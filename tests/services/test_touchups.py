"""Touch-up layers: on the rig of a role's character, after the cast sheet, on the real database."""

import numpy as np
import pytest

from dynaface.assets import ASSETS
from dynaface.core.errors import InputError
from dynaface.services.edit_document import edit_document, redo, undo
from dynaface.services.load_source import load_geometry
from dynaface.services.pieces import Piece
from dynaface.services.shot.bake_layers import bake_layers
from dynaface.services.shot.edit_layer_keys import edit_layer_keys
from dynaface.services.shot.evaluate_shot import evaluate_role, prepare_role
from dynaface.services.shot.grab_face import grab_face
from dynaface.services.shot.list_rig import list_rig
from dynaface.services.shot.make_shot import add_layer, make_shot
from dynaface.services.shot.open_shot import open_shot
from dynaface.services.shot.preview_role import RoleTrial, preview_role
from dynaface.services.shot.snapshot import ShotWish
from dynaface.services.take.import_take import import_character, import_take
from tests.conftest import stored
from tests.services.evaluated import put

CORNER = "target mouthSmileLeft"
HEAD = "joint head turn y"
SPAN = put("spans/s", {"first": 60, "last": 90, "offset": {CORNER: 0.4, HEAD: 15.0}})


def brought_in(work, production, name):
    rig = stored(work, (ASSETS / f"characters/{name.lower()}.glb").read_bytes(), f"{name}.glb")
    return import_character(work, production, name, rig)


@pytest.fixture
def odile(mara, production):
    return brought_in(mara, production, "Odile")


@pytest.fixture
def shot(mara, production, odile):
    lamp = stored(mara, (ASSETS / "demo/mara_lamp.csv").read_bytes(), "mara_lamp.csv")
    take = import_take(mara, production, "4A", "Mara Quill", [lamp])
    made = make_shot(mara, production, "Ferry landing", takes=[take.id])
    path = f"roles/{made.body.ordered[0]}/character"
    return edit_document(mara, made.id, made.version, "character", [put(path, odile.id)])


@pytest.fixture
def layer(mara, shot):
    return add_layer(mara, shot.id, shot.body.ordered[0], "corner", "add", [], touchup=True)


def on_rig(work, shot, names, evaluate=evaluate_role, layers=None, **more):
    """Channel -> (frames,) on the rig, with all layers."""
    wish = ShotWish(rig=names, layers=layers)
    head, arrays = evaluate(work, shot.id, shot.body.ordered[0], [Piece("rig")], wish=wish, **more)
    assert head["pieces"][0]["columns"] == list(names)
    return dict(zip(names, arrays["rig"].T, strict=True))


def tables(work, shot):
    _, arrays = evaluate_role(work, shot.id, shot.body.ordered[0], [Piece(p) for p in ("tidied", "weights", "motion")])
    return arrays


def test_a_touch_up_acts_on_the_character_alone_and_is_undone_and_redone(mara, shot, layer):
    before, shown = tables(mara, shot), on_rig(mara, shot, [CORNER, HEAD])
    edit_document(mara, layer.id, layer.version, "span", [SPAN])
    after = tables(mara, shot)
    assert np.array_equal(after["tidied"], before["tidied"], equal_nan=True)
    moved = on_rig(mara, shot, [CORNER, HEAD])
    assert moved[HEAD][60:91] - shown[HEAD][60:91] == pytest.approx(15, abs=1e-3)
    assert moved[CORNER][60:91] == pytest.approx(np.minimum(shown[CORNER][60:91] + 0.4, 1.5), abs=1e-3)
    assert np.array_equal(after["weights"][:50], before["weights"][:50])
    assert np.array_equal(after["motion"][:50], before["motion"][:50])
    undo(mara, [layer.id])
    assert np.array_equal(tables(mara, shot)["weights"], before["weights"])
    redo(mara, [layer.id])
    assert np.array_equal(tables(mara, shot)["weights"], after["weights"])


def test_what_a_drag_shows_is_what_it_keeps(mara, shot, layer):
    shown = on_rig(mara, shot, [CORNER], layers={layer.id: [SPAN]})
    edit_document(mara, layer.id, layer.version, "span", [SPAN])
    assert on_rig(mara, shot, [CORNER])[CORNER] == pytest.approx(shown[CORNER], abs=1e-6)


@pytest.mark.parametrize("does", ["add", "replace", "scale"])
def test_a_stroke_on_a_target_or_a_joint_is_what_the_rig_does(mara, shot, does):
    layer = add_layer(mara, shot.id, shot.body.ordered[0], does, does, [], touchup=True)
    names = [CORNER] if does == "scale" else [CORNER, HEAD]
    for channel in names:
        size = 20 if channel == HEAD else 0.6
        stroke = {"do": "draw", "channels": {channel: []}, "points": [[60, size / 2], [90, size]]}
        trial = RoleTrial(layer.id, stroke)
        shown = on_rig(mara, shot, [channel], evaluate=preview_role, trial=trial)[channel]
        layer = edit_layer_keys(mara, layer.id, layer.version, "draw a curve", stroke)[0]
        made = on_rig(mara, shot, [channel])[channel]
        wanted = np.interp(np.arange(60, 91), [60, 90], [size / 2, size])
        far = np.abs(made[60:91] - wanted) if does != "scale" else np.abs(made[70:91] - wanted[10:])
        assert np.median(far) < 0.02 * size
        assert made == pytest.approx(shown, abs=1e-4)


def test_keys_are_mirrored_to_the_target_that_does_the_same_on_the_other_side(mara, shot, layer):
    keys = {"a": [60, 0.3, 0, 0, "smooth"], "b": [90, 0.0, 0, 0, "smooth"]}
    made = edit_document(mara, layer.id, layer.version, "keys", [put(f"keys/{CORNER}", keys)])
    edit = {"do": "mirror", "channels": {CORNER: []}}
    after = edit_layer_keys(mara, layer.id, made.version, "mirror", edit)[0]
    rows = after.body.plain()["keys"]["target mouthSmileRight"]
    assert sorted(r[:2] for r in rows.values()) == [[60, 0.3], [90, 0.0]]
    with pytest.raises(InputError, match="no other side"):
        edit_layer_keys(mara, layer.id, after.version, "mirror", {"do": "mirror", "channels": {"target jawOpen": []}})


def test_it_waits_while_another_character_plays_the_role(mara, production, shot, layer):
    made = edit_document(mara, layer.id, layer.version, "span", [SPAN])
    brindle = brought_in(mara, production, "Brindle")
    role = shot.body.ordered[0]
    assert prepare_role(mara, shot.id, role).touching
    assert not prepare_role(mara, shot.id, role, ShotWish(character=brindle.id)).touching
    swapped = edit_document(mara, shot.id, shot.version, "swap", [put(f"roles/{role}/character", brindle.id)])
    with pytest.raises(InputError, match="another character"):
        edit_layer_keys(mara, layer.id, made.version, "begin", {"do": "correct", "channels": {CORNER: []}})
    edit_document(
        mara, shot.id, swapped.version, "back", [put(f"roles/{role}/character", shot.body.roles[role].character)]
    )
    assert on_rig(mara, shot, [HEAD])[HEAD][75] == pytest.approx(15, abs=1)


def test_alone_is_meant_among_layers_of_its_kind(mara, shot, layer):
    edit_document(mara, layer.id, layer.version, "span", [SPAN])
    role = shot.body.ordered[0]
    face = add_layer(mara, shot.id, role, "lip", "add", [])
    edit_document(
        mara,
        face.id,
        face.version,
        "alone",
        [put("solo", True), put("spans/s", {"first": 60, "last": 90, "offset": {"jawOpen": 0.2}})],
    )
    prepared = prepare_role(mara, shot.id, role)
    assert [n.id for n in prepared.heard] == [face.id]
    assert [n.id for n in prepared.touching] == [layer.id]
    # What is baked is of the performance: a touch-up stays on top of it.
    bake_layers(mara, shot.id, role)
    assert [n.id for n in prepare_role(mara, shot.id, role).touching] == [layer.id]


@pytest.mark.parametrize(
    ("change", "words"),
    [
        (put("keys/jawOpen", {"a": [0, 0.1, 0, 0, "smooth"]}), "no target and no joint"),
        (put("spans/s", {"first": 0, "last": 9, "offset": {"jawOpen": 0.1}}), "no target and no joint"),
        (put("regions/lips", True), "neither makers nor regions"),
        (put("makers/m", {"maker": "alive", "rank": 0}), "neither makers nor regions"),
        (put("character", None), "character"),
    ],
)
def test_it_takes_nothing_of_the_performance(mara, layer, change, words):
    with pytest.raises(InputError, match=words):
        edit_document(mara, layer.id, layer.version, "wrong", [change])


def test_a_layer_of_the_performance_takes_nothing_of_a_rig(mara, shot):
    layer = add_layer(mara, shot.id, shot.body.ordered[0], "lip", "add", [])
    with pytest.raises(InputError, match="channel"):
        edit_document(mara, layer.id, layer.version, "wrong", [SPAN])
    with pytest.raises(InputError, match="channel"):
        edit_layer_keys(mara, layer.id, layer.version, "begin", {"do": "correct", "channels": {CORNER: []}})


def test_a_role_without_a_character_has_no_rig(mara, production):
    lamp = stored(mara, (ASSETS / "demo/mara_lamp.csv").read_bytes(), "mara_lamp.csv")
    take = import_take(mara, production, "4A", "Mara Quill", [lamp])
    bare = make_shot(mara, production, "Nobody", takes=[take.id])
    role = bare.body.ordered[0]
    if bare.body.roles[role].character:
        bare = edit_document(mara, bare.id, bare.version, "nobody", [put(f"roles/{role}/character", None)])
    for asked in (
        lambda: add_layer(mara, bare.id, role, "x", "add", [], touchup=True),
        lambda: list_rig(mara, bare.id, role),
    ):
        with pytest.raises(InputError, match="no character"):
            asked()


def test_the_rig_is_listed_with_regions_targets_first_and_joints_of_the_face_next(mara, shot, odile):
    found = list_rig(mara, shot.id, shot.body.ordered[0])
    rows = {(r["part"], r["name"]): r for r in found["rows"]}
    assert found["character"] == odile.id
    assert rows["target", "mouthSmileLeft"]["region"] == "lips"
    assert rows["joint", "head"]["region"] == "head"
    assert rows["joint", "head"]["channels"] == [f"joint head {w} {a}" for w in ("turn", "slide") for a in "xyz"]
    kinds = [(r["part"], r["region"] == "extra") for r in found["rows"] if r["part"] == "joint"]
    assert kinds == sorted(kinds)


def test_a_channel_that_is_asked_for_must_be_of_a_rig(mara, shot):
    with pytest.raises(InputError, match="no target and no joint"):
        on_rig(mara, shot, ["jawOpen"])


def test_taking_hold_of_the_skin_asks_the_targets_themselves(mara, shot, odile, layer):
    role = shot.body.ordered[0]
    with mara.store.snapshot() as unit:
        face = max(load_geometry(mara, unit.sources.get(odile.body.source)).meshes, key=lambda m: len(m.offsets))
    vertex = int(np.linalg.norm(face.offsets["mouthLowerDownLeft"], axis=1).argmax())
    place, plane, wanted = face.points[vertex].tolist(), [[1, 0, 0], [0, 1, 0]], [0.001, -0.003]
    made = grab_face(mara, shot.id, role, 75, place, plane, wanted, rig=True)["channels"]
    assert 0 < len(made) < 8
    moved = sum(v * face.offsets[c.removeprefix("target ")][vertex] for c, v in made.items())
    assert np.linalg.norm(moved[:2] - wanted) < 0.0005
    with pytest.raises(InputError, match="skin alone"):
        grab_face(mara, shot.id, role, 75, place, plane, wanted, mesh="eyes", rig=True)


def test_a_shot_keeps_its_touch_ups(mara, shot, layer):
    assert [n.body.character for n in open_shot(mara, shot.id).layers if n.id == layer.id] == [
        shot.body.roles[shot.body.ordered[0]].character
    ]


def test_a_shot_says_whom_a_layer_waits_for(mara, production, shot, layer, odile):
    brindle = brought_in(mara, production, "Brindle")
    role = shot.body.ordered[0]
    edit_document(mara, shot.id, shot.version, "swap", [put(f"roles/{role}/character", brindle.id)])
    assert {c.body.name for c in open_shot(mara, shot.id).characters} == {"Odile", "Brindle"}
