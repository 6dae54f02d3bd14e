"""Bringing back what was handed over and edited elsewhere: against the real database."""

from dataclasses import replace
from fractions import Fraction

import numpy as np
import pytest

from dynaface.assets import ASSETS
from dynaface.core.documents.model.layer import LayerBody
from dynaface.core.errors import InputError, NotFoundError
from dynaface.core.returns.brought import of_performance, turned_by
from dynaface.formats.returned import read_returned
from dynaface.jobs.run_job import run_job
from dynaface.services.edit_document import edit_document, undo
from dynaface.services.handover.list_handovers import handover_file, list_handovers
from dynaface.services.handover.request_handover import request_handover, request_role_handover
from dynaface.services.jobs.follow_jobs import list_jobs
from dynaface.services.returns.bring_back import request_return
from dynaface.services.shot.evaluate_shot import prepare_role
from dynaface.services.shot.make_shot import make_shot
from dynaface.services.shot.snapshot import read_shot
from dynaface.services.take.import_clips import import_clips
from dynaface.services.take.import_take import import_character, import_take
from dynaface.services.take.prepare_take import prepare_take
from dynaface.services.work import document_for
from dynaface.sims.edited import edited_glb, edited_table
from tests.conftest import stored
from tests.services.evaluated import put

DEMO = ASSETS / "demo"
EDIT = slice(100, 120)


@pytest.fixture
def quiet(mara):
    return replace(mara, defer=lambda job: None)


@pytest.fixture
def lamp(mara, production):
    rig = stored(mara, (ASSETS / "characters/odile.glb").read_bytes(), "odile.glb")
    import_character(mara, production, "Odile", rig)
    files = [stored(mara, (DEMO / n).read_bytes(), n) for n in ("mara_lamp.csv", "mara_lamp_body.bvh")]
    return import_take(mara, production, "4A", "Mara Quill", files)


@pytest.fixture
def shot(mara, production, lamp):
    return make_shot(mara, production, "Ferry landing", takes=[lamp.id])


def done(work, production, job):
    run_job(work, job.id)
    (row,) = [j for j in list_jobs(work, production) if j.id == job.id]
    assert row.state == "done", row.message
    return row.result


def handed(work, production, document, forms, role=None, **options):
    """name -> bytes of what is handed over of a take, or of a role of a shot ("" for all)."""
    settings = {"forms": forms, "options": options}
    job = (
        request_handover(work, document, settings)
        if role is None
        else request_role_handover(work, document, role, settings)
    )
    done(work, production, job)
    made = list_handovers(work, production)[0]
    return {f["name"]: handover_file(work, made.id, n)[1] for n, f in enumerate(made.files)}


def ending(files, end):
    return next((name, data) for name, data in files.items() if name.endswith(end))


def brought(work, production, data, name, onto="", as_face=False):
    given = stored(work, data, name)
    files = [{"media": given["media"], "name": name}]
    return done(work, production, request_return(work, production, files, onto, as_face))


def layers(work, shot):
    with work.store.snapshot() as unit:
        return [n for n in read_shot(work, unit, shot).layers if not n.body.archived]


@pytest.mark.parametrize("form", [("gltf", ".glb"), ("usd", ".usdc"), ("bvh", ".bvh"), ("curve table", ".csv")])
def test_unchanged_it_makes_no_layer(form, quiet, production, shot):
    (role,) = shot.body.ordered
    name, data = ending(handed(quiet, production, shot.id, {form[0]: {}}, role), form[1])
    result = brought(quiet, production, data, name)
    (row,) = result["returns"]
    assert row["ok"], row
    assert row["differences"] == []
    assert row["layer"] == ""
    assert layers(quiet, shot.id) == []


def test_an_edited_character_is_a_touchup_layer_that_plays_what_came_back(quiet, production, shot):
    (role,) = shot.body.ordered
    name, data = ending(handed(quiet, production, shot.id, {"gltf": {}}, role), ".glb")
    before = prepare_role(quiet, shot.id, role).performance
    edited = edited_glb(data, EDIT, "jawOpen", 0.2, "upperArmLeft", 15.0, prefix="show_")
    (row,) = brought(quiet, production, edited, name)["returns"]
    assert row["ok"], row
    assert {(d["part"], d["of"]) for d in row["differences"]} == {("weight", "jawOpen"), ("turn", "upperArmLeft")}
    assert [d["runs"] for d in row["differences"]] == [[[100, 119]]] * 2
    assert any("'show_' taken off" in line for line in row["putRight"])
    assert (row["shot"], row["role"], row["begun"], row["left"]) == (shot.id, role, False, [])
    (layer,) = layers(quiet, shot.id)
    assert layer.id == row["layer"]
    assert layer.body.does == "replace"
    assert layer.body.character == shot.body.roles[role].character
    prepared = prepare_role(quiet, shot.id, role)
    now, was = prepared.performance, before
    rig = prepared.snapshot.character
    assert rig is not None
    meant = next(iter(read_returned(edited, "x.glb").values()))
    shown = of_performance(now, rig.skeleton)
    jaw = was.cast.targets.index("jawOpen")
    low, high = EDIT.start, EDIT.stop
    np.testing.assert_allclose(now.cast.weights[low:high, now.cast.targets.index("jawOpen")], np.clip(was.cast.weights[low:high, jaw] + 0.2, 0, None), atol=2e-3)  # fmt: skip
    apart = turned_by(shown.turns["upperArmLeft"], meant.turns["show_upperArmLeft"])
    assert apart.max() < 0.1
    # What was not edited is what it was, and outside of the edit everything is.
    outside = np.r_[0 : low - 8, high + 8 : was.channels.frames]
    np.testing.assert_allclose(now.local[outside], was.local[outside], atol=1e-6)
    other = [i for i, t in enumerate(was.cast.targets) if t != "jawOpen"]
    np.testing.assert_array_equal(now.cast.weights[:, other], was.cast.weights[:, other])


def test_an_edited_table_is_a_layer_of_the_face(quiet, production, shot):
    (role,) = shot.body.ordered
    name, data = ending(handed(quiet, production, shot.id, {"curve table": {}}, role), ".csv")
    (row,) = brought(quiet, production, edited_table(data, "browInnerUp", EDIT, 0.4), f"retouched_{name}")["returns"]
    assert row["ok"], row
    assert [(d["part"], d["of"], d["runs"]) for d in row["differences"]] == [("channel", "browInnerUp", [[100, 119]])]
    (layer,) = layers(quiet, shot.id)
    assert layer.body.character is None
    prepared = prepare_role(quiet, shot.id, role)
    tidied, raw = (n.result(quiet.cache) for n in (prepared.graph.tidied, prepared.graph.lanes))
    raised = tidied.column("browInnerUp")[EDIT] - raw.column("browInnerUp")[EDIT]
    np.testing.assert_allclose(raised, 0.4, atol=2e-3)


def test_bringing_back_is_one_step_that_can_be_undone(quiet, production, shot):
    (role,) = shot.body.ordered
    name, data = ending(handed(quiet, production, shot.id, {"curve table": {}}, role), ".csv")
    (row,) = brought(quiet, production, edited_table(data, "browInnerUp", EDIT, 0.4), name)["returns"]
    undo(quiet, [row["layer"]])
    assert layers(quiet, shot.id) == []


def test_an_edited_character_becomes_a_change_of_its_face_when_asked(quiet, production, shot):
    """Through the cast sheet; what no channel is behind, here an arm, stays a touch-up."""
    (role,) = shot.body.ordered
    name, data = ending(handed(quiet, production, shot.id, {"gltf": {}}, role), ".glb")
    before = prepare_role(quiet, shot.id, role).performance
    edited = edited_glb(data, EDIT, "mouthSmileLeft", 0.3, "upperArmLeft", 15.0)
    rows = brought(quiet, production, edited, name, as_face=True)["returns"]
    assert [(r["ok"], r["face"], r["left"]) for r in rows] == [(True, True, []), (True, False, [])]
    assert "mouthSmileLeft" in {d["of"] for d in rows[0]["differences"]}
    assert [d["of"] for d in rows[1]["differences"]] == ["upperArmLeft"]
    face, rig = (next(n for n in layers(quiet, shot.id) if n.id == r["layer"]) for r in rows)
    assert (face.body.character, rig.body.character) == (None, shot.body.roles[role].character)
    now = prepare_role(quiet, shot.id, role).performance
    for target in before.cast.targets:
        apart = now.cast.weights[EDIT, now.cast.targets.index(target)] - before.cast.weights[EDIT, before.cast.targets.index(target)]  # fmt: skip
        np.testing.assert_allclose(apart, 0.3 if target == "mouthSmileLeft" else 0.0, atol=0.03, err_msg=target)


def test_an_edited_body_moves_the_joints_of_the_character(quiet, production, shot):
    """A BVH has the world's axes at rest, and here z up; the character has its own."""
    (role,) = shot.body.ordered
    name, data = ending(handed(quiet, production, shot.id, {"bvh": {"up": "z"}}, role), ".bvh")
    lines = data.decode().splitlines()
    first = next(n for n, line in enumerate(lines) if line.startswith("Frame Time")) + 1
    joints = [line.split()[1] for line in lines if line.strip().startswith(("ROOT", "JOINT"))]
    column = 3 + 3 * joints.index("upperArmLeft")
    for n in range(first + EDIT.start, first + EDIT.stop):
        cells = lines[n].split()
        cells[column + 1] = f"{float(cells[column + 1]) + 20:.5f}"  # about x
        lines[n] = " ".join(cells)
    before = of_performance(prepare_role(quiet, shot.id, role).performance, prepare_role(quiet, shot.id, role).snapshot.character.skeleton)  # fmt: skip
    (row,) = brought(quiet, production, ("\n".join(lines) + "\n").encode(), name)["returns"]
    assert row["ok"], row
    assert [(d["part"], d["of"]) for d in row["differences"]] == [("turn", "upperArmLeft")]
    prepared = prepare_role(quiet, shot.id, role)
    now = of_performance(prepared.performance, prepared.snapshot.character.skeleton)
    apart = turned_by(now.turns["upperArmLeft"], before.turns["upperArmLeft"])
    assert apart[EDIT].min() == pytest.approx(row["differences"][0]["most"], abs=4)
    # Handed over again it is the file that came back.
    again = ending(handed(quiet, production, shot.id, {"bvh": {"up": "z"}}, role), ".bvh")[1].decode().splitlines()
    one, other = (
        np.array([[float(v) for v in row.split()] for row in text[first : first + 200]]) for text in (again, lines)
    )
    wide = np.abs((one - other + 180) % 360 - 180)
    assert np.percentile(wide, 99.9) < 0.1


def test_a_take_that_comes_back_begins_a_shot_of_it(quiet, production, lamp):
    name, data = ending(handed(quiet, production, lamp.id, {"gltf": {}}, first=60, last=200, handles=5), ".glb")
    (row,) = brought(quiet, production, edited_glb(data, slice(20, 30), "jawOpen"), name)["returns"]
    assert row["ok"], row
    assert row["begun"]
    (changed,) = row["differences"]
    assert changed["runs"] == [[75, 84]], "20 frames after the handle's first, which is frame 55"
    with quiet.store.snapshot() as unit:
        body = document_for(quiet, unit, row["layer"], LayerBody).body
    assert body.shot == row["shot"]


def test_all_files_of_a_take_land_in_one_shot(quiet, production, lamp):
    files = handed(quiet, production, lamp.id, {"gltf": {}, "curve table": {}})
    (name, glb), (table, rows) = ending(files, ".glb"), ending(files, ".csv")
    given = [(name, edited_glb(glb, EDIT, "jawOpen")), (table, edited_table(rows, "browInnerUp", EDIT, 0.4))]
    result = done(
        quiet,
        production,
        request_return(quiet, production, [{"media": stored(quiet, d, n)["media"], "name": n} for n, d in given]),
    )
    (one, other) = result["returns"]
    assert one["shot"] == other["shot"]
    assert {n.id for n in layers(quiet, one["shot"])} == {one["layer"], other["layer"]}


def test_a_take_comes_back_onto_the_shot_that_is_open(quiet, production, lamp, shot):
    (role,) = shot.body.ordered
    (key,) = shot.body.roles[role].placements
    edit_document(quiet, shot.id, shot.version, "later", [put("length", "20"), put(f"roles/{role}/placements/{key}/start", "2"), put(f"roles/{role}/placements/{key}/first", "1/2")])  # fmt: skip
    name, data = ending(handed(quiet, production, lamp.id, {"gltf": {}}), ".glb")
    (row,) = brought(quiet, production, edited_glb(data, EDIT, "jawOpen"), name, shot.id)["returns"]
    assert row["ok"], row
    later = round(float((Fraction(2) - Fraction(1, 2)) * shot.body.fps))
    assert row["differences"][0]["runs"] == [[100 + later, 119 + later]]
    assert row["shot"] == shot.id


def test_a_file_of_another_name_belongs_to_what_is_open(quiet, production, shot):
    (role,) = shot.body.ordered
    _, data = ending(handed(quiet, production, shot.id, {"gltf": {}}, role), ".glb")
    edited = edited_glb(data, EDIT, "jawOpen")
    result = brought(quiet, production, edited, "something.glb")
    assert not result["ok"]
    assert "nothing that was handed over" in result["returns"][0]["said"]
    (row,) = brought(quiet, production, edited, "something.glb", shot.id)["returns"]
    assert row["ok"]
    assert row["layer"]


def test_without_a_handover_it_is_compared_with_what_is_played_now(quiet, production, lamp, shot):
    """The file is of another shot that plays the same, and is called like none that was handed over."""
    (role,) = shot.body.ordered
    files = handed(quiet, production, shot.id, {"gltf": {}, "curve table": {}}, role)
    other = make_shot(quiet, production, "Lamp alone", takes=[lamp.id])
    glb, table = (ending(files, end)[1] for end in (".glb", ".csv"))
    (row,) = brought(quiet, production, edited_glb(glb, EDIT, "jawOpen"), "walk.glb", other.id)["returns"]
    assert [(d["of"], d["runs"]) for d in row["differences"]] == [("jawOpen", [[100, 119]])]
    (row,) = brought(quiet, production, edited_table(table, "browInnerUp", EDIT, 0.4), "walk.csv", other.id)["returns"]
    assert [(d["of"], d["runs"]) for d in row["differences"]] == [("browInnerUp", [[100, 119]])]
    (row,) = brought(quiet, production, edited_table(table, "browInnerUp", EDIT, 0.4), "walk.csv", lamp.id)["returns"]
    assert [(d["of"], d["runs"]) for d in row["differences"]] == [("browInnerUp", [[100, 119]])]
    assert row["begun"]


def test_all_characters_in_one_file_come_back_each_on_its_role(quiet, production, lamp):
    other = import_take(quiet, production, "7", "Ivo Thackett", [stored(quiet, (DEMO / "mara_lamp.csv").read_bytes(), "mara_lamp.csv")])  # fmt: skip
    shot = make_shot(quiet, production, "Both", takes=[lamp.id, other.id])
    name, data = ending(handed(quiet, production, shot.id, {"gltf": {"characters": "all in one file"}}, ""), ".glb")
    result = brought(quiet, production, edited_glb(data, EDIT, "jawOpen"), name)
    assert result["ok"], result
    assert [r["role"] for r in result["returns"]] == list(shot.body.ordered)
    assert {n.body.role for n in layers(quiet, shot.id)} == set(shot.body.ordered)


def test_a_file_that_fails_does_not_stop_the_others_and_harms_nothing(quiet, production, shot):
    (role,) = shot.body.ordered
    name, data = ending(handed(quiet, production, shot.id, {"gltf": {}}, role), ".glb")
    good, bad = (
        stored(quiet, d, n) for d, n in ((edited_glb(data, EDIT, "jawOpen"), name), (data[:2000], f"cut_{name}"))
    )
    files = [{"media": g["media"], "name": n} for g, n in ((bad, f"cut_{name}"), (good, name))]
    result = done(quiet, production, request_return(quiet, production, files))
    assert [r["ok"] for r in result["returns"]] == [False, True]
    assert f"cut_{name}" in result["returns"][0]["said"]
    assert len(layers(quiet, shot.id)) == 1


def test_that_the_work_has_changed_since_is_said(quiet, production, shot):
    (role,) = shot.body.ordered
    name, data = ending(handed(quiet, production, shot.id, {"gltf": {}}, role), ".glb")
    assert not brought(quiet, production, data, name)["returns"][0]["changed"]
    edit_document(quiet, shot.id, shot.version, "count", [put("timecode", "01:00:10:00")])
    assert brought(quiet, production, data, name)["returns"][0]["changed"]


@pytest.mark.parametrize("files", [[], [{"name": "clip.mp4"}], [{"name": "x.glb"}] * 41])
def test_what_cannot_come_back_is_refused_at_once(files, quiet, production):
    given = stored(quiet, b"glTF", "x.glb")
    with pytest.raises(InputError):
        request_return(quiet, production, [{"media": given["media"], **f} for f in files])


def test_nobody_brings_back_into_a_production_of_others(quiet, production, stranger, shot):
    given = stored(quiet, b"glTF", "x.glb")
    with pytest.raises(NotFoundError):
        request_return(stranger, production, [{"media": given["media"], "name": "x.glb"}])


def test_a_handed_over_character_is_a_take_with_its_face_and_its_body(quiet, production, lamp):
    """An animated mesh of elsewhere comes in with all that moves it."""
    name, data = ending(handed(quiet, production, lamp.id, {"gltf": {}}), ".glb")
    (row,) = import_clips(quiet, production, "Mara Quill", stored(quiet, data, name))["takes"]
    assert (row["joints"] > 20, row["matched"] > 40, row["notes"]) == (True, True, [])
    was, now = (prepare_take(quiet, t).performance for t in (lamp.id, row["id"]))
    assert str(now.channels.timecode) == str(was.channels.timecode)
    jaw = [p.channels.column("jawOpen") for p in (was, now)]
    apart = np.abs(np.nan_to_num(jaw[1]) - np.clip(np.nan_to_num(jaw[0]), 0, 1))
    assert np.median(apart) < 0.01  # the lips' contacts move the jaw of the mesh here and there
    arm = [p.local[:, p.joints.index("upperArmLeft")] for p in (was, now)]
    assert np.percentile(turned_by(*(a.astype(np.float64) for a in arm)), 95) < 3
