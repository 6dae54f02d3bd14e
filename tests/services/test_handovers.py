"""Handing over takes, shots and several at once: against the real database."""

import io
import json
import zipfile
from dataclasses import replace
from fractions import Fraction

import opentimelineio as otio
import pytest

from dynaface.assets import ASSETS
from dynaface.core.errors import CancelledError, InputError, NotFoundError
from dynaface.core.handover.presets import BUILT_IN
from dynaface.formats.entries import wav
from dynaface.formats.usd.stage import open_stage
from dynaface.jobs.run_job import run_job
from dynaface.services.edit_document import edit_document, undo
from dynaface.services.handover.edit_lists import edit_of_shot
from dynaface.services.handover.list_handovers import handover_archive, handover_file, list_handovers
from dynaface.services.handover.presets import own_presets
from dynaface.services.handover.request_handover import (
    make_handovers,
    request_handover,
    request_handovers,
    request_role_handover,
)
from dynaface.services.jobs.follow_jobs import list_jobs
from dynaface.services.shot.make_shot import make_shot
from dynaface.services.shot.snapshot import read_shot
from dynaface.services.take.import_take import import_character, import_take
from tests.conftest import stored
from tests.services.evaluated import put

DEMO = ASSETS / "demo"
EVERYTHING = {"gltf": {}, "curve table": {}, "bvh": {}, "usd": {}, "sound": {}, "edit list": {}}


def demo(work, name):
    return stored(work, (DEMO / name).read_bytes(), name)


@pytest.fixture
def quiet(mara):
    return replace(mara, defer=lambda job: None)


@pytest.fixture
def odile(mara, production):
    rig = stored(mara, (ASSETS / "characters/odile.glb").read_bytes(), "odile.glb")
    return import_character(mara, production, "Odile", rig)


@pytest.fixture
def lamp(mara, production, odile):
    files = [demo(mara, "mara_lamp.csv"), demo(mara, "mara_lamp.wav"), demo(mara, "mara_lamp_body.bvh")]
    return import_take(mara, production, "4A", "Mara Quill", files)


@pytest.fixture
def shot(mara, production, lamp):
    other = import_take(mara, production, "7", "Ivo Thackett", [demo(mara, "mara_lamp.csv")])
    made = make_shot(mara, production, "Ferry landing", takes=[lamp.id, other.id])
    return edit_document(mara, made.id, made.version, "count", [put("timecode", "01:00:10:00")])


def files_of(work, handover):
    return {f["name"]: handover_file(work, handover.id, n)[1] for n, f in enumerate(handover.files)}


def made_of(work, production, job):
    run_job(work, job.id)
    (row,) = [j for j in list_jobs(work, production) if j.id == job.id]
    assert row.state == "done", row.message
    return list_handovers(work, production)[0]


def test_a_take_goes_over_in_every_form_at_once(quiet, production, lamp):
    made = made_of(quiet, production, request_handover(quiet, lamp.id, {"forms": EVERYTHING}))
    assert made.report["ok"], made.report["checks"]
    files = files_of(quiet, made)
    assert {"4A.glb", "4A.csv", "4A.bvh", "4A.usdc", "4A.wav", "4A.otio", "4A.manifest.json"} <= set(files)
    said = json.loads(files["4A.manifest.json"])
    assert said["of"] == {"take": lamp.id, "version": lamp.version, "curves": lamp.body.sources.curves}
    assert set(said["files"]) == set(files) - {"4A.manifest.json"}


def test_a_marked_range_has_its_sound_and_its_count(quiet, production, lamp):
    """Two seconds from frame 60: the WAV is two seconds long, and begins a second later than the take's count."""
    settings = {"forms": {"sound": {}, "curve table": {}}, "options": {"first": 60, "last": 179}}
    whole = files_of(quiet, made_of(quiet, production, request_handover(quiet, lamp.id, {"forms": {"sound": {}}})))
    part = files_of(quiet, made_of(quiet, production, request_handover(quiet, lamp.id, settings)))
    one, other = wav.read(whole["4A.wav"]), wav.read(part["4A.wav"])
    assert other.seconds == pytest.approx(2, abs=1e-3)
    assert (one.samples[one.rate : one.rate * 3] == other.samples[: 2 * one.rate]).all()
    rows = part["4A.csv"].decode().splitlines()
    assert len(rows) == 121


def test_the_edit_list_of_a_take_names_what_was_recorded(quiet, production, lamp):
    made = made_of(quiet, production, request_handover(quiet, lamp.id, {"forms": {"edit list": {}}}))
    read = otio.adapters.read_from_string(files_of(quiet, made)["4A.otio"].decode(), "otio_json")
    named = [c.media_reference.target_url for t in read.tracks for c in t if isinstance(c, otio.schema.Clip)]
    assert named == ["mara_lamp.csv", "mara_lamp.wav"]


class TestShots:
    def test_all_roles_go_over_together_each_named_apart(self, quiet, production, shot):
        settings = {"forms": {"gltf": {}, "usd": {"characters": "all in one file"}, "sound": {}}}
        made = made_of(quiet, production, request_role_handover(quiet, shot.id, "", settings))
        assert made.report["ok"], made.report["checks"]
        assert made.label == "Ferry landing"
        files = files_of(quiet, made)
        assert {
            "Ferry_landing_Odile.glb",
            "Ferry_landing_Odile_2.glb",
            "Ferry_landing.usdc",
            "Ferry_landing.wav",
        } <= set(files)

    def test_both_stand_on_one_stage_where_they_stand_in_the_shot(self, quiet, production, shot, tmp_path):
        other = shot.body.ordered[1]
        edit_document(quiet, shot.id, shot.version, "place", [put(f"roles/{other}/at", [1.5, 0.0, -0.5])])
        settings = {"forms": {"usd": {"characters": "all in one file", "form": "text"}}}
        made = made_of(quiet, production, request_role_handover(quiet, shot.id, "", settings))
        for name, data in files_of(quiet, made).items():
            (tmp_path / name).write_bytes(data)
        stage = open_stage(tmp_path / "Ferry_landing.usda")
        prim = stage.GetPrimAtPath("/World/Ferry_landing_Odile_2")
        assert tuple(prim.GetAttribute("xformOp:translate").Get()) == (1.5, 0.0, -0.5)

    def test_the_edit_list_has_a_track_a_role_and_the_count_of_the_shot(self, quiet, production, shot):
        with quiet.store.snapshot() as unit:
            edit = edit_of_shot(quiet, read_shot(quiet, unit, shot.id))
        assert [(t.name, t.kind) for t in edit.tracks] == [
            ("Mara Quill", "picture"),
            ("Ivo Thackett", "picture"),
            ("sound", "sound"),
        ]
        (piece,) = edit.tracks[0].pieces
        assert (piece.media.file, piece.start) == ("mara_lamp.csv", 0)
        assert edit.seconds == Fraction(shot.body.length)
        made = made_of(quiet, production, request_role_handover(quiet, shot.id, "", {"forms": {"edit list": {}}}))
        read = otio.adapters.read_from_string(files_of(quiet, made)["Ferry_landing.otio"].decode(), "otio_json")
        assert otio.opentime.to_timecode(read.global_start_time) == "01:00:10:00"

    def test_a_shot_that_nobody_plays_says_so(self, quiet, production, shot):
        bare = edit_document(
            quiet, shot.id, shot.version, "none", [put(f"roles/{r}/character", None) for r in shot.body.ordered]
        )
        with pytest.raises(InputError, match="no role of this shot has a character"):
            request_role_handover(quiet, bare.id, "", {})


class TestSeveral:
    def test_takes_and_shots_are_one_job_with_one_report(self, quiet, production, lamp, shot):
        settings = {"forms": {"curve table": {}}, "pattern": "{production}_{name}_{performer}"}
        job = request_handovers(quiet, production, [lamp.id, shot.id], settings)
        run_job(quiet, job.id)
        (done,) = [j for j in list_jobs(quiet, production) if j.id == job.id]
        assert [(r["label"], r["ok"]) for r in done.result["made"]] == [("4A", True), ("Ferry landing", True)]
        names = {f["name"] for h in list_handovers(quiet, production) for f in h.files}
        assert any(n.endswith("_4A_Mara_Quill.csv") for n in names)

    def test_one_that_fails_does_not_stop_the_others(self, quiet, production, lamp):
        silent = import_take(quiet, production, "9", "Mara Quill", [demo(quiet, "mara_lamp.csv")])
        job = request_handovers(quiet, production, [silent.id, lamp.id], {"forms": {"sound": {}}})
        run_job(quiet, job.id)
        (done,) = [j for j in list_jobs(quiet, production) if j.id == job.id]
        assert done.state == "done"
        failed, good = done.result["made"]
        assert (failed["label"], failed["ok"], good["ok"]) == ("9", False, True)
        assert "no sound to hand over" in failed["said"]
        assert len(list_handovers(quiet, production)) == 1

    def test_a_job_that_is_begun_again_makes_nothing_twice(self, quiet, production, lamp, shot):
        """A worker that was killed after the first: the second attempt gives the same handovers."""
        job = request_handovers(quiet, production, [lamp.id, shot.id], {"forms": {"curve table": {}}})
        own = replace(quiet, job=job.id)
        seen = []

        def killed(part, message):
            seen.append(part)
            if part > 0.5:
                raise CancelledError("killed")

        with pytest.raises(CancelledError):
            make_handovers(own, job, killed)
        assert len(list_handovers(quiet, production)) == 1
        make_handovers(own, job, lambda *_: None)
        assert len(list_handovers(quiet, production)) == 2
        assert seen == sorted(seen)

    @pytest.mark.parametrize("wanted", [[], ["x"] * 201])
    def test_none_and_too_many_are_refused(self, quiet, production, wanted):
        with pytest.raises(InputError, match="takes and shots are chosen"):
            request_handovers(quiet, production, wanted, {})

    def test_only_takes_and_shots_of_this_production(self, quiet, production, lamp, odile, stranger):
        with pytest.raises(InputError, match="no take and no shot"):
            request_handovers(quiet, production, [odile.id], {})
        with pytest.raises(NotFoundError):
            request_handovers(stranger, production, [lamp.id], {})


def test_all_files_of_a_handover_come_in_a_zip(quiet, production, lamp):
    made = made_of(quiet, production, request_handover(quiet, lamp.id, {}))
    name, data = handover_archive(quiet, made.id)
    assert name == "4A.zip"
    with zipfile.ZipFile(io.BytesIO(data)) as archive:
        assert {n: archive.read(n) for n in archive.namelist()} == files_of(quiet, made)


class TestPresets:
    def test_are_the_production_s_own_and_begin_with_those_that_come_along(self, mara, production, lamp):
        found = own_presets(mara, production)
        assert set(found.body.presets) == set(BUILT_IN)
        assert own_presets(mara, production).id == found.id

    def test_are_changed_and_undone(self, mara, production, lamp):
        found = own_presets(mara, production)
        wanted = {
            "forms": {"usd": {"up": "z"}},
            "options": {"rate": "24", "handles": 8},
            "pattern": "{shot}_{character}",
        }
        kept = edit_document(mara, found.id, found.version, "keep", [put("presets/film", wanted)])
        assert kept.body.presets["film"].options.handles == 8
        back, _ = undo(mara, [found.id])
        assert "film" not in back.body.presets

    @pytest.mark.parametrize(
        "bad",
        [
            {"forms": {}},
            {"forms": {"gltf": {}}, "options": {"handles": -1}},
            {"forms": {"gltf": {}}, "pattern": "{who}"},
        ],
    )
    def test_that_make_no_sense_are_not_kept(self, mara, production, lamp, bad):
        found = own_presets(mara, production)
        with pytest.raises(InputError):
            edit_document(mara, found.id, found.version, "keep", [put("presets/bad", bad)])
        assert "bad" not in own_presets(mara, production).body.presets
