from dataclasses import replace

import numpy as np
import pytest

from dynaface.assets import ASSETS
from dynaface.core.documents.model.take import TakeBody
from dynaface.core.errors import DeniedError, InputError, LimitError, NotFoundError
from dynaface.core.handover.file_name import file_name
from dynaface.formats.entries import bvh
from dynaface.jobs.run_job import run_job
from dynaface.services.edit_document import edit_document, undo
from dynaface.services.handover.list_handovers import handover_file, list_handovers
from dynaface.services.handover.request_handover import request_handover
from dynaface.services.jobs.follow_jobs import cancel_job, list_jobs
from dynaface.services.media.fetch_media import fetch_peaks, fetch_source
from dynaface.services.media.inspect_upload import inspect_upload
from dynaface.services.media.receive_upload import receive_upload
from dynaface.services.people.manage_productions import add_member, list_productions
from dynaface.services.people.sign_in import add_account, sign_in
from dynaface.services.pieces import Piece
from dynaface.services.take.estimate_sync import estimate_sync
from dynaface.services.take.evaluate_take import evaluate_take
from dynaface.services.take.import_take import attach_source, import_character, import_take
from dynaface.services.take.open_take import list_characters, list_takes, open_take
from dynaface.services.take.report_take import cast_report, join_report
from dynaface.services.take.snapshot import Wish
from dynaface.sims.walk import walk
from tests.conftest import stored
from tests.makers import table
from tests.services.evaluated import evaluated
from tests.services.evaluated import put as at

DEMO = ASSETS / "demo"


def demo(work, name):
    return stored(work, (DEMO / name).read_bytes(), name)


@pytest.fixture
def take(mara, production):
    files = [demo(mara, "mara_lamp.csv"), demo(mara, "mara_lamp.wav"), demo(mara, "mara_lamp_body.bvh")]
    return import_take(mara, production, "4A", "Mara Quill", files)


@pytest.fixture
def odile(mara, production):
    return import_character(
        mara, production, "Odile", stored(mara, (ASSETS / "characters/odile.glb").read_bytes(), "odile.glb")
    )


def test_the_report_comes_before_anything_is_kept(mara, production):
    found = inspect_upload(mara, production, demo(mara, "mara_lamp.csv")["media"], "mara_lamp.csv")
    assert found.report["dropped"] > 10
    assert found.report["doubled"] > 0
    assert len(found.report["matched"]) == 55
    assert list_takes(mara, production) == []


def test_the_correction_of_a_reading_is_kept_for_the_next_file(mara, production):
    data = table(names=("jawOpen", "mystery"))
    given = stored(mara, data, "a.csv")
    first = inspect_upload(mara, production, given["media"], "a.csv")
    assert first.report["unmatched"] == ["mystery"]
    import_take(mara, production, "1", "", [{**given, "recipe": {"columns": {"mystery": "cheekPuff"}}}])
    again = inspect_upload(
        mara, production, stored(mara, table(rows=40, names=("jawOpen", "mystery")), "b.csv")["media"], "b.csv"
    )
    assert again.remembered
    assert {"column": "mystery", "channel": "cheekPuff"} in again.report["matched"]


def test_a_bad_file_leaves_nothing_half_stored(mara, production):
    bad = stored(mara, b"RIFF\x00\x00\x00\x00WAVEdata\xff\xff\xff\xff", "bad.wav")
    with pytest.raises(InputError, match=r"bad\.wav"):
        import_take(mara, production, "1", "", [stored(mara, table(), "a.csv"), bad])
    assert list_takes(mara, production) == []
    with mara.store.unit() as unit:
        assert unit.documents.of_kind(production, TakeBody) == []


def test_files_that_make_no_take_are_refused(mara, production, odile):
    with pytest.raises(InputError, match="of one kind"):
        import_take(mara, production, "1", "", [stored(mara, table(), "a.csv"), stored(mara, table(rows=9), "b.csv")])
    with pytest.raises(InputError, match="no file"):
        import_take(mara, production, "1", "", [])
    with pytest.raises(InputError, match="not part of a take"):
        import_take(mara, production, "1", "", [stored(mara, (ASSETS / "characters/odile.glb").read_bytes(), "o.glb")])
    with pytest.raises(InputError, match="not a character"):
        import_character(mara, production, "X", stored(mara, table(), "a.csv"))


def test_an_upload_over_the_limit_is_not_kept(mara):
    with pytest.raises(LimitError):
        mara.media.put(iter([b"x" * 600] * 10), 5000)
    with pytest.raises(NotFoundError):
        mara.media.get("../../etc/passwd")
    with pytest.raises(NotFoundError):
        mara.media.get("0" * 64)


def test_the_source_keeps_its_own_time_stamps_and_values(mara, production, take):
    from dynaface.formats.entries.curve_table import read_table
    from dynaface.services.load_source import load_recording

    source = open_take(mara, take.id).sources["curves"]
    with mara.store.unit() as unit:
        kept = load_recording(mara, unit, source)
    exact, _ = read_table((DEMO / "mara_lamp.csv").read_bytes())
    np.testing.assert_array_equal(kept.times, exact.times)
    np.testing.assert_array_equal(kept.values, exact.values)
    assert kept.names == exact.names
    assert kept.timecode == exact.timecode


def test_a_take_evaluates_to_curves_weights_and_motion(mara, take, odile):
    head, arrays = evaluated(mara, take.id, ["raw", "tidied", "weights", "motion", "root"])
    assert head["rate"] == "60"
    assert arrays["raw"].shape == arrays["tidied"].shape == (head["frames"], 55)
    assert arrays["weights"].shape == (head["frames"], 52)
    assert arrays["motion"].shape == (head["frames"], len(head["joints"]), 4)
    assert head["rootJoint"] == "hips"
    assert np.isnan(arrays["raw"]).any()
    assert np.isfinite(arrays["weights"]).all()
    np.testing.assert_allclose(np.linalg.norm(arrays["motion"], axis=-1), 1, atol=1e-5)


def test_a_drag_shows_what_is_not_stored(mara, take, odile):
    free = [at("contacts/lips", False), at("contacts/lids", False)]  # a contact would move the jaw as well
    stored_, before = evaluated(mara, take.id, ["weights"], Wish(cast=free))
    _, shown = evaluated(mara, take.id, ["weights"], Wish(cast=[at("regionStrength/jaw", 0.5), *free]))
    jaw = stored_["targets"].index("jawOpen")
    np.testing.assert_allclose(shown["weights"][:, jaw], before["weights"][:, jaw] * 0.5, atol=1e-6)
    _, after = evaluated(mara, take.id, ["weights"], Wish(cast=free))
    np.testing.assert_array_equal(after["weights"], before["weights"])
    with pytest.raises(InputError):
        evaluated(mara, take.id, ["weights"], Wish(cast=[at("regionStrength/jaw", 99)]))


def test_a_tidy_step_can_be_switched_off_and_undone(mara, take):
    take = edit_document(mara, take.id, take.version, "on", [{"path": "tidy/steps/smooth/on", "value": True}])
    _, on = evaluated(mara, take.id, ["raw", "tidied"])
    edit_document(mara, take.id, take.version, "off", [{"path": "tidy/steps/smooth/on", "value": False}])
    _, off = evaluated(mara, take.id, ["tidied"])
    np.testing.assert_array_equal(off["tidied"], on["raw"])
    undo(mara, [take.id])
    _, again = evaluated(mara, take.id, ["tidied"])
    np.testing.assert_array_equal(again["tidied"], on["tidied"])


def test_a_contact_set_by_hand_goes_with_the_body_and_comes_first(mara, take, odile):
    opened = open_take(mara, take.id)
    right = next(s for s in join_report(mara, take.id)["stands"] if s["side"] == "Right")
    begins = join_report(mara, take.id)["begins"]
    spans = {
        "a": {
            "side": "Right",
            "first": begins + 1.0,
            "last": begins + 2.0,
            "over": [begins + right["first"] / 60, begins + right["last"] / 60],
        }
    }
    made = edit_document(
        mara, opened.join.id, opened.join.version, "contact", [at("contacts", spans), at("feet", True)]
    )
    rows = [s for s in join_report(mara, take.id)["stands"] if s["side"] == "Right"]
    assert [(s["key"], round(s["first"]), round(s["last"])) for s in rows] == [("a", 60, 120)]
    edit_document(mara, opened.join.id, made.version, "later", [at("nudge", 6.0)])
    rows = [s for s in join_report(mara, take.id)["stands"] if s["key"] == "a"]
    assert round(rows[0]["first"]) == 66
    _, held = evaluated(mara, take.id, ["motion"])
    _, free = evaluated(mara, take.id, ["motion"], Wish(join=[at("contacts", {})]))
    assert np.abs(held["motion"] - free["motion"]).max() > 1e-3
    with pytest.raises(InputError, match="before it begins"):
        edit_document(mara, opened.join.id, made.version + 1, "bad", [at("contacts/a/last", 0.0)])


def test_a_contact_that_is_dragged_in_a_long_take_answers_with_the_stretch_that_changes(mara, production, odile):
    made = walk(60, 3).motion
    times = 2400 // made.frames
    body = replace(made, local=np.tile(made.local, (times, 1, 1)), root=np.tile(made.root, (times, 1)))
    files = [stored(mara, table(2300), "face.csv"), stored(mara, bvh.write(body), "walk.bvh")]
    take = import_take(mara, production, "9", "Mara Quill", files)
    join = open_take(mara, take.id).join
    edit_document(mara, join.id, join.version, "feet", [at("feet", True), at("touch", True)])
    head, arrays = evaluated(mara, take.id, ["motion", "root", "weights"])
    held = [Piece(p["part"], have=p["tag"]) for p in head["pieces"]]
    left = next(s for s in join_report(mara, take.id)["stands"] if s["side"] == "Left" and s["first"] > 1000)
    spans = {"side": "Left", "first": (left["first"] - 8) / 60, "last": left["last"] / 60}
    spans["over"] = [left["first"] / 60, left["last"] / 60]
    wish = Wish(join=[at("contacts/a", spans)])
    said, runs = evaluate_take(mara, take.id, held, wish)
    assert [p["of"] for p in said["pieces"]] == [p.have for p in held]
    assert 0 < runs["motion"].size < arrays["motion"].size / 8
    assert runs["motion runs"][:, 1].min() > 600
    assert not runs["weights"].size
    # Laid over what was held it is what the whole gives.
    patched = arrays["root"].reshape(-1, 3).copy()
    at_value = 0
    for _, first, count in runs["root runs"]:
        patched[first : first + count] = runs["root"][at_value : at_value + count]
        at_value += count
    _, whole = evaluated(mara, take.id, ["root"], wish)
    assert patched == pytest.approx(whole["root"].reshape(-1, 3), abs=1e-6)
    # Where more than contacts is wished for, all is looked at anew.
    both = Wish(join=[at("contacts/a", spans), at("floor", 0.05)])
    _, runs = evaluate_take(mara, take.id, held, both)
    assert runs["motion runs"][:, 1].min() < 300


def test_the_reports_say_what_matched(mara, take, odile):
    cast = cast_report(mara, take.id)
    assert len(cast["matched"]) == 52
    assert cast["missing"] == []
    join = join_report(mara, take.id)
    assert join["offset"] == pytest.approx(3.0, abs=0.01)
    assert join["begins"] == pytest.approx(3.0, abs=0.01)
    assert {s["side"] for s in join["stands"]} == {"Left", "Right", "RightHand"}
    assert all(s["first"] <= s["last"] and s["first"] < 328 and not s["key"] for s in join["stands"])


def test_who_moves_the_head_is_keyed_over_the_take(mara, take, odile):
    join = open_take(mara, take.id).join
    head, face = evaluated(mara, take.id, ["motion"])
    at_head = head["joints"].index("head")
    keys = {"a": [100, 1.0, 0, 0, "linear"], "b": [140, 0.0, 0, 0, "linear"]}
    edit_document(mara, join.id, join.version, "head weight", [at("headWeight", {"value": 1.0, "keys": keys})])
    _, mixed = evaluated(mara, take.id, ["motion"])
    _, body = evaluated(mara, take.id, ["motion"], Wish(join=[at("headWeight", {"value": 0.0, "keys": {}})]))
    np.testing.assert_allclose(mixed["motion"][:100, at_head], face["motion"][:100, at_head], atol=1e-6)
    np.testing.assert_allclose(mixed["motion"][141:, at_head], body["motion"][141:, at_head], atol=1e-6)
    undo(mara, [join.id])
    np.testing.assert_array_equal(evaluated(mara, take.id, ["motion"])[1]["motion"], face["motion"])


def test_feet_stand_when_they_are_asked_to_and_not_where_the_body_stays_in_place(mara, take, odile):
    join = open_take(mara, take.id).join
    head, loose = evaluated(mara, take.id, ["motion", "root"])
    edit_document(mara, join.id, join.version, "feet stand", [{"path": "feet", "value": True}])
    _, stood = evaluated(mara, take.id, ["motion", "root"])
    moved = {
        n
        for n, off in zip(head["joints"], np.abs(stood["motion"] - loose["motion"]).max(axis=(0, 2)), strict=True)
        if off > 1e-4
    }
    assert {"upperLegLeft", "lowerLegLeft", "footLeft"} <= moved
    assert not {"head", "handLeft", "spine1"} & moved
    _, still = evaluated(mara, take.id, ["motion"], Wish(join=[at("travel", "spot")]))
    _, plain = evaluated(mara, take.id, ["motion"], Wish(join=[at("travel", "spot"), at("feet", False)]))
    np.testing.assert_array_equal(still["motion"], plain["motion"])


def test_the_sound_is_found_nine_frames_late(mara, take):
    found = estimate_sync(mara, take.id)
    assert found["confident"]
    assert found["offset"] * 60 == pytest.approx(-9, abs=2)


def test_a_source_can_be_added_and_taken_back(mara, production):
    take = import_take(mara, production, "1", "", [stored(mara, table(), "a.csv")])
    made = attach_source(mara, take.id, demo(mara, "ivo_hush.wav"))
    assert set(made.body.sources.held) == {"curves", "sound"}
    source, medium = fetch_source(mara, made.body.sources.sound)
    assert next(medium.pieces(0, 4)) == b"RIFF"
    rate, peaks = fetch_peaks(mara, source.id)
    assert rate == 200
    assert peaks.shape[1] == 2
    undo(mara, [take.id])
    assert set(open_take(mara, take.id).sources) == {"curves"}


def test_a_take_without_curves_says_what_to_do(mara, production):
    take = import_take(mara, production, "1", "", [demo(mara, "ivo_hush.wav")])
    with pytest.raises(InputError, match="no curves"):
        evaluated(mara, take.id, ["raw"])


def test_a_handover_is_made_checked_and_listed(mara, production, take, odile):
    queued = []
    job = request_handover(
        mara.__class__(mara.store, mara.media, queued.append, mara.node, mara.person),
        take.id,
        {"forms": {"gltf": {}, "curve table": {}, "bvh": {}}},
    )
    assert queued == [job.id]
    run_job(mara, job.id)
    done = list_jobs(mara, production)[0]
    assert (done.state, done.message) == ("done", "")
    made = list_handovers(mara, production)[0]
    assert {f["name"] for f in made.files} == {"4A.csv", "4A.bvh", "4A.glb", "4A.manifest.json"}
    assert made.report["ok"], made.report["checks"]
    assert any("viewer" in c["what"] and c["ok"] for c in made.report["checks"])
    name, data = handover_file(mara, made.id, [f["name"] for f in made.files].index("4A.csv"))
    assert name == "4A.csv"
    assert data.startswith(b"frame,time,timecode,headTurnDeg")
    assert list_takes(mara, production)[0]["stages"]["handover"]


def test_a_handover_at_another_rate(mara, production, take, odile):
    job = request_handover(
        mara.__class__(mara.store, mara.media, lambda j: None, "", mara.person),
        take.id,
        {"options": {"rate": "24", "head": False}},
    )
    run_job(mara, job.id)
    made = list_handovers(mara, production)[0]
    assert made.report["rate"] == "24"
    assert made.report["frames"] == pytest.approx(5.46 * 24, abs=2)
    assert b"headTurnDeg" not in handover_file(mara, made.id, 0)[1]


def test_a_job_can_be_cancelled_before_and_while_it_runs(mara, production, take, odile):
    quiet = mara.__class__(mara.store, mara.media, lambda j: None, "", mara.person)
    before = request_handover(quiet, take.id, {})
    assert cancel_job(mara, before.id).state == "cancelled"
    run_job(mara, before.id)
    assert list_jobs(mara, production)[0].state == "cancelled"
    with pytest.raises(InputError, match="cancelled already"):
        cancel_job(mara, before.id)
    under_way = request_handover(quiet, take.id, {})
    with mara.store.unit() as unit:
        unit.jobs.change(under_way.id, cancelling=True)
    run_job(mara, under_way.id)
    assert list_jobs(mara, production)[0].state == "cancelled"
    assert list_handovers(mara, production) == []


def test_a_job_that_fails_says_why(mara, production, take):
    quiet = mara.__class__(mara.store, mara.media, lambda j: None, "", mara.person)
    job = request_handover(quiet, take.id, {"forms": {"gltf": {}}})
    run_job(mara, job.id)
    failed = list_jobs(mara, production)[0]
    assert failed.state == "failed"
    assert "no character" in failed.message


@pytest.mark.parametrize(
    "bad", [{"forms": {}}, {"options": {"rate": "x"}}, {"forms": {"papyrus": {}}}, {"extra": 1}, {"pattern": "{who}"}]
)
def test_settings_that_cannot_be_met_are_refused_at_once(mara, take, bad):
    with pytest.raises(InputError):
        request_handover(mara, take.id, bad)


def test_strangers_see_nothing(stranger, mara, production, take, odile):
    for ask in (
        lambda: list_takes(stranger, production), lambda: open_take(stranger, take.id), lambda: list_characters(stranger, production),
        lambda: evaluated(stranger, take.id, ["raw"]), lambda: list_jobs(stranger, production), lambda: list_handovers(stranger, production),
        lambda: fetch_source(stranger, take.body.sources.curves), lambda: receive_upload(stranger, production, iter([b"x"])),
        lambda: inspect_upload(stranger, production, "0" * 64, "a.csv"), lambda: attach_source(stranger, take.id, {"media": "0" * 64, "name": "x"}),
    ):  # fmt: skip
        with pytest.raises(NotFoundError):
            ask()
    assert list_productions(stranger) == []


def test_only_owners_add_members(mara, ivo, production, base):
    account = add_account(base.store, f"Third {production[:6]}", "a long password")
    with pytest.raises(DeniedError):
        add_member(ivo, production, account.name)
    add_member(mara, production, account.name)
    assert [p.id for p in list_productions(base.by(account.id))] == [production]


def test_accounts(base, production):
    name = f"Odo {production[:8]}"
    add_account(base.store, name, "a long password")
    assert sign_in(base.store, name, "a long password").name == name
    for wrong in ((name, "another password"), ("nobody at all", "a long password"), ("Animator", "")):
        with pytest.raises(DeniedError):
            sign_in(base.store, *wrong)
    with pytest.raises(InputError, match="12 to 200"):
        add_account(base.store, "x", "short")


def test_the_demo_is_seeded_once(base, settings):
    from dynaface.demo.seed import seed_demo

    with base.store.unit() as unit:
        before = unit.people.all_productions()
    seed_demo(base)
    with base.store.unit() as unit:
        assert unit.people.all_productions() == before


def test_file_names_are_safe():
    assert file_name("4A / 1") == "4A_1"
    assert file_name("../../x") == "x"
    assert file_name("///") == "take"
