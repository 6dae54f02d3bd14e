"""Characters and cast sheets against the real database: studied once, carried, copied, renewed, exported."""

import json

import numpy as np
import pytest

from dynaface.assets import ASSETS
from dynaface.core.documents.model.layer import LayerBody
from dynaface.core.errors import InputError, NotFoundError
from dynaface.core.shapes.standard import SHAPES
from dynaface.formats.entries.curve_table import write_table
from dynaface.formats.gltf.bake import sample_glb
from dynaface.services.cast.browse_extremes import browse_extremes
from dynaface.services.cast.carry_sheet import (
    compare_sheet,
    copy_sheet,
    export_sheet,
    foresee_swap,
    import_sheet,
    renew_character,
    swap_character,
)
from dynaface.services.cast.measure_proportions import propose_for_take
from dynaface.services.character.aim_joint import aim_joint
from dynaface.services.character.character_health import character_health, character_study
from dynaface.services.edit_document import edit_document, undo
from dynaface.services.handover.list_handovers import handover_file
from dynaface.services.handover.request_handover import make_handovers, request_handover
from dynaface.services.shot.evaluate_shot import prepare_role
from dynaface.services.shot.make_shot import add_layer, make_shot
from dynaface.services.take.import_clips import import_clips
from dynaface.services.take.import_take import import_character, import_take
from dynaface.services.take.open_take import open_take
from dynaface.services.take.prepare_take import prepare_take
from dynaface.services.take.report_take import cast_report
from dynaface.services.work import document_for
from tests.conftest import stored
from tests.formats.test_gltf_reading import Document, archive
from tests.makers import channels
from tests.services.evaluated import evaluated, put


def bring(work, production, name):
    data = (ASSETS / f"characters/{name}.glb").read_bytes()
    return import_character(work, production, name.title(), stored(work, data, f"{name}.glb"))


@pytest.fixture
def take(mara, production):
    names = (
        "jawOpen",
        "eyeBlinkLeft",
        "eyeBlinkRight",
        "browInnerUp",
        "mouthSmileLeft",
        "headTurn",
        "headNod",
        "headTilt",
    )
    return import_take(
        mara, production, "1A / 1", "Mara Quill", [stored(mara, write_table(channels(80, names=names)), "a.csv")]
    )


@pytest.fixture
def odile(mara, production):
    return bring(mara, production, "odile")


def on(work, take, character):
    edited = swap_character(work, take.id, character.id)
    return edited, open_take(work, take.id).cast


def test_brindle_is_matched_by_shape_when_it_comes_in(mara, production, take):
    brindle = bring(mara, production, "brindle")
    on(mara, take, brindle)
    report = cast_report(mara, take.id)
    by = {m["target"]: m for m in report["matched"]}
    assert by["gawp"]["shape"] == "jawOpen"
    assert by["gawp"]["how"] == "shape"
    assert by["gawp"]["confidence"] > 0.9
    assert "tongueOut" in report["missing"]
    head, arrays = evaluated(mara, take.id, ["weights", "tidied"])
    jaw = arrays["tidied"][:, head["channels"].index("jawOpen")]
    gawp = arrays["weights"][:, head["targets"].index("gawp")]
    assert np.corrcoef(jaw, gawp)[0, 1] > 0.99


def test_what_the_mesh_says_is_kept_and_not_worked_out_again(mara, production, monkeypatch):
    brindle = bring(mara, production, "brindle")
    with mara.store.unit() as unit:
        assert unit.sources.get(brindle.body.source).info["study"]["matches"]
    from dynaface.services import load_source

    mara.cache.clear()
    monkeypatch.setattr(load_source, "study_character", lambda *a: pytest.fail("it was kept"))
    assert character_study(mara, brindle.id)["edges"]["lips"]["width"] > 20


def test_kettle_moves_by_joints_and_the_file_plays_the_same(mara, production, take):
    kettle = bring(mara, production, "kettle")
    on(mara, take, kettle)
    head, arrays = evaluated(mara, take.id, ["weights", "motion", "shifts"])
    assert head["targets"] == []
    assert {"jaw", "lidUpperLeft"} <= set(head["joints"])
    assert set(head["shifted"]) >= {"browPlateLeft"}
    assert {d["key"] for d in cast_report(mara, take.id)["drives"]} >= {"jaw:jawOpen", "lidLowerRight:eyeBlinkRight"}
    job = request_handover(mara, take.id, {"forms": {"gltf": {}}})
    made = make_handovers(mara, job, lambda *_: None)
    assert made["ok"]
    _, data = handover_file(mara, made["handover"], 0)
    frames = np.array([0, 33, 79])
    read = sample_glb(data, frames)
    jaw = head["joints"].index("jaw")
    np.testing.assert_allclose(read[("jaw", "rotation")], arrays["motion"][frames, jaw], atol=1e-6)
    brow = head["shifted"].index("browPlateLeft")
    moved = read[("browPlateLeft", "translation")] - read[("browPlateLeft", "translation")][0]
    np.testing.assert_allclose(moved, arrays["shifts"][frames, brow] - arrays["shifts"][0, brow], atol=1e-6)


def test_a_joint_is_aimed_where_somebody_points(mara, production, stranger):
    kettle = bring(mara, production, "kettle")
    made = aim_joint(mara, kettle.id, "jaw", "jawOpen", "down", 30)
    assert (made["moves"], made["axis"]) == ("turn", [0.0, -1.0, 0.0])
    for wrong in (
        ("nose", "jawOpen", "down", 30),
        ("jaw", "snout", "down", 30),
        ("jaw", "jawOpen", "sideways", 30),
        ("jaw", "jawOpen", "down", 0),
    ):
        with pytest.raises(InputError):
            aim_joint(mara, kettle.id, *wrong)
    with pytest.raises(NotFoundError):
        aim_joint(stranger, kettle.id, "jaw", "jawOpen", "down", 30)


def test_swapping_a_character_is_one_change_and_carries_the_sheet(mara, production, take, odile):
    _, cast = on(mara, take, odile)
    edit_document(mara, cast.id, cast.version, "softer", [{"path": "regionStrength", "value": {"lips": 0.7}}])
    brindle = bring(mara, production, "brindle")
    seen = foresee_swap(mara, take.id, brindle.id)
    assert (seen["sheet"], seen["sameBuild"], seen["matched"]) == ("carried", False, 49)
    assert any("tongueOut" in w for w in seen["words"])
    swapped, theirs = on(mara, take, brindle)
    assert swapped.body.character == brindle.id
    assert theirs.body.region_strength == {"lips": 0.7}
    undo(mara, [take.id])
    assert open_take(mara, take.id).character.id == odile.id
    assert foresee_swap(mara, take.id, brindle.id)["sheet"] == "own"


def test_a_character_of_another_production_is_no_choice(mara, take, odile, base):
    from dynaface.services.people.manage_productions import begin_production

    other = begin_production(mara, "Other").id
    foreign = bring(mara, other, "kettle")
    with pytest.raises(InputError, match="another production"):
        swap_character(mara, take.id, foreign.id)


def test_a_newer_version_is_compared_and_keeps_sheets_and_the_old_one(mara, production, take):
    first = Document().face(("jawOpen", "grin", "wart"))
    rig = import_character(mara, production, "Rig", stored(mara, first.glb(), "rig.glb"))
    _, cast = on(mara, take, rig)
    matches = {"grin": "mouthSmileLeft", "wart": "cheekPuff"}
    edit_document(mara, cast.id, cast.version, "matches", [{"path": "matches", "value": matches}])
    second = Document().face(("jawOpen", "grin", "mole"))
    made = renew_character(mara, rig.id, stored(mara, second.glb(), "rig2.glb"))
    change = made["change"]
    assert (change["renamed"], change["gone"], change["added"]) == ({"wart": "mole"}, [], [])
    opened = open_take(mara, take.id)
    assert opened.cast.body.matches == {"grin": {"mouthSmileLeft": 1.0}, "mole": {"cheekPuff": 1.0}}
    assert [(v.source, v.file) for v in opened.character.body.versions] == [(rig.body.source, "rig.glb")]
    with pytest.raises(InputError):
        renew_character(mara, rig.id, stored(mara, b"glTF not", "bad.glb"))
    assert open_take(mara, take.id).character.version == opened.character.version


def test_sheets_are_exported_compared_and_imported(mara, take, odile):
    _, cast = on(mara, take, odile)
    edit_document(mara, cast.id, cast.version, "wider", [{"path": "wayStrength", "value": {"lips wide": 1.3}}])
    name, data = export_sheet(mara, take.id)
    assert name == "mara_quill_odile_sheet.json"
    given = {**json.loads(data), "wayStrength": {"lips wide": 0.8}, "bend": {"jawOpen": 0.5}}
    other = stored(mara, json.dumps(given).encode(), "theirs.json")
    differ = {(d["field"], d["name"]): (d["ours"], d["theirs"]) for d in compare_sheet(mara, take.id, other)}
    assert differ == {("wayStrength", "lips wide"): ("1.3", "0.8"), ("bend", "jawOpen"): ("null", "0.5")}
    assert import_sheet(mara, take.id, other).body.way_strength == {"lips wide": 0.8}
    assert compare_sheet(mara, take.id, other) == []
    before = open_take(mara, take.id).cast
    with pytest.raises(InputError, match=r"broken\.json"):
        import_sheet(mara, take.id, stored(mara, b'{"dynafaceSheet": 1, "high": "tall"}', "broken.json"))
    assert open_take(mara, take.id).cast == before


def test_a_sheet_is_copied_for_another_performer_without_its_proportions(mara, production, take, odile):
    _, cast = on(mara, take, odile)
    wanted = [{"path": "matches", "value": {"cheekPuff": ""}}, {"path": "regionStrength", "value": {"jaw": 0.6}}]
    edit_document(mara, cast.id, cast.version, "mine", wanted)
    table = stored(mara, write_table(channels(30)), "b.csv")
    second = import_take(mara, production, "1B / 1", "Ivo Thackett", [table])
    on(mara, second, odile)
    made = copy_sheet(mara, second.id, "Mara Quill")
    assert made.body.matches == {"cheekPuff": {}}
    assert made.body.region_strength == {}
    for performer in ("Ivo Thackett", "Nobody"):
        with pytest.raises(InputError):
            copy_sheet(mara, second.id, performer)


def test_strengths_are_proposed_and_contacts_and_crossings_told(mara, take, odile):
    _, cast = on(mara, take, odile)
    assert (cast.body.contacts.lips, cast.body.contacts.lids) == (True, True)
    proposed = propose_for_take(mara, take.id)
    assert proposed["card"] == ""
    assert {p["name"] for p in proposed["proposals"]} == {"eyeBlinkLeft", "eyeBlinkRight"}
    edit_document(mara, cast.id, cast.version, "no contacts", [{"path": "contacts", "value": {"lids": False}}])
    head, _ = evaluated(mara, take.id, ["weights"])
    assert {c["kind"] for c in head["crossings"]} >= {"lid left", "lid right"}
    assert head["kept"] == []


def test_extremes_over_all_takes_come_as_poses(mara, production, take, odile):
    on(mara, take, odile)
    wild = np.zeros((20, len(SHAPES)), np.float32)
    wild[7, SHAPES.index("cheekPuff")] = 1.0
    from fractions import Fraction

    from dynaface.core.curves.channels import Channels

    table = write_table(Channels(SHAPES, wild, Fraction(60)))
    second = import_take(mara, production, "1A / 2", "Mara Quill", [stored(mara, table, "c.csv")])
    found = {e["way"]: e for e in browse_extremes(mara, take.id)}
    assert (found["cheeks puff"]["take"], found["cheeks puff"]["frame"]) == (second.id, 7)
    puff = found["cheeks puff"]["targets"].index("cheekPuff")
    assert found["cheeks puff"]["weights"][puff] == pytest.approx(1.0)
    assert found["jaw open"]["take"] == take.id
    halved = {e["way"]: e for e in browse_extremes(mara, take.id, [put("regionStrength/cheeks", 0.5)])}
    assert halved["cheeks puff"]["weights"][puff] == pytest.approx(0.5)


def test_a_gltf_with_its_files_is_kept_as_one_binary(mara, production):
    made = import_character(mara, production, "Zip", stored(mara, archive(Document().face().apart()), "rig.zip"))
    with mara.store.unit() as unit:
        source = unit.sources.get(made.body.source)
    assert mara.media.get(source.media)[:4] == b"glTF"
    assert character_health(mara, made.id)["present"][0]["shape"] == "jawOpen"


def test_animated_shapes_become_takes(mara, production):
    made = Document().face(("jawOpen", "wart")).animate(np.arange(5) / 24, [[i / 4, 0] for i in range(5)], name="one")
    made.animate(np.arange(3) / 24, [[0.5, 0]] * 3, name="two")
    given = stored(mara, made.glb(), "shots.glb")
    takes = import_clips(mara, production, "Mara Quill", given, 48)["takes"]
    assert [(t["slate"], t["frames"], t["unmatched"]) for t in takes] == [
        ("shots one", 5, ["wart"]),
        ("shots two", 3, ["wart"]),
    ]
    head, arrays = evaluated(mara, takes[0]["id"], ["tidied"])
    assert head["timecode"].startswith("00:00:02:00")
    np.testing.assert_allclose(arrays["tidied"][:, head["channels"].index("jawOpen")], np.arange(5) / 4, atol=1e-5)
    with pytest.raises(InputError, match=r"still\.glb"):
        import_clips(mara, production, "", stored(mara, Document().face().glb(), "still.glb"))


def test_a_contact_that_one_take_lets_go_is_held_in_the_others(mara, production, take, odile):
    """The sheet is shared by all takes of a performer; which of a take's contacts are held is the take's own."""
    other = import_take(mara, production, "again", "Mara Quill", [stored(mara, write_table(channels(80)), "again.csv")])
    for one in (take, other):
        swap_character(mara, one.id, odile.id)
    opened = open_take(mara, take.id).take
    edit_document(mara, take.id, opened.version, "let go", [{"path": "letGo/lips 12", "value": True}])
    assert prepare_take(mara, take.id).sheet.contacts.off == {"lips 12"}
    assert prepare_take(mara, other.id).sheet.contacts.off == frozenset()


def test_touchup_layers_go_along_to_a_newer_version(mara, production, take):
    first = Document().face(("jawOpen", "grin", "wart"))
    rig = import_character(mara, production, "Rig", stored(mara, first.glb(), "rig.glb"))
    on(mara, take, rig)
    shot = make_shot(mara, production, "Ferry landing", takes=[take.id])
    (role,) = shot.body.ordered
    span = {"first": 10, "last": 20, "offset": {"target wart": 0.5}}
    layer = add_layer(mara, shot.id, role, "wider", "replace", [], True, {"s": span})
    keys = {"target grin": {"k": [5, 0.3, 0, 0, "flat"]}, "target gone": {"g": [5, 0.3, 0, 0, "flat"]}}
    edit_document(mara, layer.id, layer.version, "keys", [{"path": f"keys/{c}", "value": k} for c, k in keys.items()])
    second = Document().face(("jawOpen", "grin", "mole"))
    made = renew_character(mara, rig.id, stored(mara, second.glb(), "rig2.glb"))
    assert made["words"] == ["gone of a touch-up was left behind: Rig has no such target."]
    with mara.store.snapshot() as unit:
        body = document_for(mara, unit, layer.id, LayerBody).body
    assert body.spans["s"].offset == {"target mole": 0.5}
    assert body.plain()["keys"] == keys
    now = prepare_role(mara, shot.id, role).performance
    assert now.cast.weights[15, now.cast.targets.index("mole")] == pytest.approx(0.5, abs=1e-3)
