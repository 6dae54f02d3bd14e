"""Snags, mends, proposals, saved stacks, keys and takes side by side, on the real database."""

import numpy as np
import pytest

from dynaface.assets import ASSETS
from dynaface.core.errors import InputError, NotFoundError
from dynaface.core.keying.kit import EDITS
from dynaface.services.edit_document import edit_document, history_state, redo, undo
from dynaface.services.take.compare_takes import compare_takes
from dynaface.services.take.edit_keys import edit_keys
from dynaface.services.take.find_take_snags import list_snags, mend_take, propose_stack
from dynaface.services.take.import_take import import_take
from dynaface.services.take.open_take import list_takes, open_take
from dynaface.services.take.preview_take import Trial
from dynaface.services.take.saved_stacks import list_stacks, run_stack, save_stack
from dynaface.services.take.snapshot import Wish
from tests.conftest import stored
from tests.makers import table
from tests.services.evaluated import evaluated, put


def demo(work, *names):
    return [stored(work, (ASSETS / "demo" / n).read_bytes(), n) for n in names]


@pytest.fixture
def take(mara, production):
    return import_take(mara, production, "4B second", "Mara Quill", demo(mara, "mara_second.csv", "mara_second.wav")).id


@pytest.fixture
def plain(mara, production):
    return import_take(mara, production, "plain", "", [stored(mara, table(rows=120), "plain.csv")]).id


def version(work, take):
    return open_take(work, take).take.version


def tidied(work, take, channel="jawOpen"):
    head, arrays = evaluated(work, take, ("tidied",))
    return arrays["tidied"][:, head["channels"].index(channel)].copy()


def keys(work, take, do, channels, **more):
    return edit_keys(work, take, version(work, take), do, {"do": do, "channels": channels, **more})


def held(work, take, channel="jawOpen"):
    entry = open_take(work, take).take.body.plain()["hand"].get(channel)
    return entry and {
        **entry,
        "keys": sorted(entry["keys"].values()),
        "ids": sorted(entry["keys"], key=entry["keys"].get),
    }


def test_a_take_comes_in_with_its_snags_counted(mara, production, take):
    found = list_snags(mara, take)
    assert {"jitter burst", "head pop", "sound off"} <= {s["kind"] for s in found["snags"]}
    severities = [s["severity"] for s in found["snags"]]
    assert severities == sorted(severities, reverse=True)
    assert [t["snags"] for t in list_takes(mara, production)] == [len(found["snags"])]


def test_an_accepted_mend_takes_its_snag_away_and_comes_back_with_undo(mara, take):
    pop = next(s for s in list_snags(mara, take)["snags"] if s["kind"] == "head pop")
    made = mend_take(mara, take, version(mara, take), [pop["key"]])
    assert made.body.tidy.steps["mend1"].step == "bridge over"
    assert pop["key"] not in {s["key"] for s in list_snags(mara, take)["snags"]}
    assert history_state(mara, [take])["undo"] == "mend: head pop"
    undo(mara, [take])
    assert pop["key"] in {s["key"] for s in list_snags(mara, take)["snags"]}
    redo(mara, [take])
    assert pop["key"] not in {s["key"] for s in list_snags(mara, take)["snags"]}


def test_all_of_a_kind_are_mended_in_one_change_and_one_step(mara, take):
    pops = [s["key"] for s in list_snags(mara, take)["snags"] if s["kind"] == "head pop"]
    made = mend_take(mara, take, version(mara, take), pops)
    mends = [s for k, s in made.body.tidy.steps.items() if k.startswith("mend")]
    assert len(mends) == 1
    assert len(mends[0].given["places"]) == len(pops) == 3
    assert "head pop" not in {s["kind"] for s in list_snags(mara, take)["snags"]}


def test_the_sound_is_moved_where_that_is_the_mend(mara, take):
    late = next(s for s in list_snags(mara, take)["snags"] if s["kind"] == "sound off")
    made = mend_take(mara, take, version(mara, take), [late["key"]])
    assert made.body.sound_offset == pytest.approx(-0.15, abs=0.03)
    assert "sound off" not in {s["kind"] for s in list_snags(mara, take)["snags"]}


def test_a_mend_is_previewed_without_being_kept(mara, take):
    pop = next(s for s in list_snags(mara, take)["snags"] if s["kind"] == "head pop")
    before = tidied(mara, take, pop["channels"][0])
    head, arrays = evaluated(mara, take, ["tidied"], trial=Trial(mends=[pop["key"]]))
    after = arrays["tidied"][:, head["channels"].index(pop["channels"][0])]
    assert np.abs(np.diff(after)).max() < np.abs(np.diff(before)).max()
    np.testing.assert_array_equal(tidied(mara, take, pop["channels"][0]), before)


def test_a_snag_that_is_let_be_stays_so_with_its_reason(mara, take):
    pop = next(s for s in list_snags(mara, take)["snags"] if s["kind"] == "head pop")
    value = {"kind": "head pop", "reason": "she nods", "first": pop["first"], "last": pop["last"]}
    change = {"path": f"dismissed/{pop['key']}", "value": value}
    edit_document(mara, take, version(mara, take), "dismiss head pop", [change])
    found = list_snags(mara, take)
    assert pop["key"] not in {s["key"] for s in found["snags"]}
    assert [(s["key"], s["reason"]) for s in found["dismissed"]] == [(pop["key"], "she nods")]


def test_a_snag_that_is_gone_is_named(mara, take):
    with pytest.raises(NotFoundError, match="not there any more"):
        mend_take(mara, take, version(mara, take), ["spike.jawOpen.9999"])


def test_a_proposed_stack_can_be_taken_and_leaves_fewer_snags(mara, take):
    before = len(list_snags(mara, take)["snags"])
    made = propose_stack(mara, take)
    assert set(made["reasons"]) == set(made["tidy"]["steps"])
    edit_document(mara, take, version(mara, take), "tidy it", [{"path": "tidy", "value": made["tidy"]}])
    assert len(list_snags(mara, take)["snags"]) < before / 2


def test_a_stack_is_saved_and_run_over_takes_and_one_that_fails_is_named(mara, stranger, production, take, plain):
    steps = {
        "gate": {"step": "gate small motion", "on": True, "rank": 4},
        "here": {"step": "bridge over", "on": True, "rank": 5, "places": [{"first": 3, "last": 5}]},
    }
    edit_document(mara, take, version(mara, take), "steps", [put(f"tidy/steps/{k}", s) for k, s in steps.items()])
    saved = save_stack(mara, take, "calm")
    assert [(s["name"], s["steps"]) for s in list_stacks(mara, production)] == [("calm", 4)]
    with pytest.raises(InputError, match="already"):
        save_stack(mara, take, "calm")
    ran = run_stack(mara, saved.id, [plain, "00000000-0000-0000-0000-000000000000"])
    assert ran["done"] == [plain]
    assert "no such take" in ran["failed"][0]["why"]
    assert open_take(mara, plain).take.body.tidy == saved.body.tidy
    with pytest.raises(NotFoundError):
        run_stack(stranger, saved.id, [plain])


def test_a_moved_slider_runs_from_its_own_step_on(mara, take, monkeypatch):
    from dynaface.core.evaluate import take as module

    ran = []
    plain_run = module.run_step
    monkeypatch.setattr(module, "run_step", lambda given, entry: ran.append(entry.step.name) or plain_run(given, entry))
    tidied(mara, take)
    ran.clear()
    for gain in (0.7, 0.8):
        evaluated(mara, take, ["tidied"], Wish(take=[put("tidy/steps/strength/gain", {"jawOpen": gain})]))
    assert ran == ["strength", "strength"]


def test_a_channel_reduced_to_keys_is_what_its_keys_say(mara, take):
    before = tidied(mara, take)
    _, report = keys(mara, take, "reduce", {"jawOpen": []}, tolerance=0.01)
    assert report["jawOpen"]["keys"] < len(before) / 5
    assert report["jawOpen"]["worst"] <= 0.01
    assert np.abs(tidied(mara, take) - before).max() <= 0.0101
    undo(mara, [take])
    np.testing.assert_array_equal(tidied(mara, take), before)


def test_keys_are_moved_typed_turned_mirrored_and_deleted(mara, take):
    keys(mara, take, "reduce", {"mouthSmileLeft": []})
    rows, ids = (held(mara, take, "mouthSmileLeft")[k] for k in ("keys", "ids"))
    number = len(rows) // 2
    key = ids[number]
    keys(mara, take, "value", {"mouthSmileLeft": [key]}, value=0.9)
    frame = int(rows[number][0])
    assert tidied(mara, take, "mouthSmileLeft")[frame] == pytest.approx(0.9, abs=1e-4)
    keys(mara, take, "tangents", {"mouthSmileLeft": [key]}, kind="flat")
    assert held(mara, take, "mouthSmileLeft")["keys"][number][4] == "flat"
    keys(mara, take, "move", {"mouthSmileLeft": [key]}, frames=1, value=-0.1)
    assert held(mara, take, "mouthSmileLeft")["keys"][number][:2] == [frame + 1, pytest.approx(0.8)]
    keys(mara, take, "mirror", {"mouthSmileLeft": []})
    left = held(mara, take, "mouthSmileLeft")
    assert held(mara, take, "mouthSmileRight")["keys"] == left["keys"]
    assert key in left["ids"]
    assert set(left["ids"]) <= set(ids)
    keys(mara, take, "delete", {"mouthSmileLeft": left["ids"]})
    assert held(mara, take, "mouthSmileLeft") is None


def test_drawing_on_a_dense_channel_is_a_correction_on_top(mara, take):
    before = tidied(mara, take)
    points = [[100, 0.2], [120, 0.7], [140, 0.3]]
    keys(mara, take, "draw", {"jawOpen": []}, points=points)
    after = tidied(mara, take)
    assert held(mara, take)["mode"] == "offset"
    assert after[120] == pytest.approx(0.7, abs=0.01)
    np.testing.assert_allclose(np.delete(after, np.s_[98:143]), np.delete(before, np.s_[98:143]), atol=2e-3)
    # What lies beneath can still change, and the correction stays on top of it.
    edit_document(
        mara, take, version(mara, take), "weaker", [{"path": "tidy/steps/strength/region", "value": {"jaw": 0.5}}]
    )
    lift = after[120] - before[120]
    assert tidied(mara, take)[120] == pytest.approx(0.5 * before[120] + lift, abs=0.01)


def test_a_range_comes_back_as_it_was_and_the_rest_of_the_work_stays(mara, take):
    before = tidied(mara, take)
    keys(mara, take, "draw", {"jawOpen": []}, points=[[50, 0.5], [90, 0.5]])
    keys(mara, take, "draw", {"jawOpen": []}, points=[[200, 0.6], [240, 0.6]])
    keys(mara, take, "restore", {"jawOpen": []}, first=190, last=250)
    after = tidied(mara, take)
    np.testing.assert_allclose(after[195:245], before[195:245], atol=0.006)
    assert after[70] == pytest.approx(0.5, abs=0.01)
    raw = evaluated(mara, take, ("raw",))
    column = raw[0]["channels"].index("jawOpen")
    keys(mara, take, "restore", {"jawOpen": []}, first=40, last=100, to="raw")
    np.testing.assert_allclose(tidied(mara, take)[45:95], raw[1]["raw"][45:95, column], atol=0.006)


def test_brushing_inserting_scaling_pasting_and_taking_off(mara, take):
    before = tidied(mara, take)
    keys(mara, take, "brush", {"jawOpen": []}, way="pull", centre=100, size=15, amount=1, value=0.8)
    assert tidied(mara, take)[100] == pytest.approx(0.8, abs=0.01)
    keys(mara, take, "clear", {"jawOpen": []})
    np.testing.assert_array_equal(tidied(mara, take), before)
    keys(mara, take, "reduce", {"jawOpen": []})
    count = len(held(mara, take)["keys"])
    keys(mara, take, "insert", {"jawOpen": []}, frame=77)
    assert len(held(mara, take)["keys"]) in (count, count + 1)
    copied = held(mara, take)["keys"][:3]
    keys(mara, take, "paste", {"jawOpen": []}, frame=300, copied={"jawOpen": copied})
    assert 300 in [k[0] for k in held(mara, take)["keys"]]
    keys(mara, take, "scale", {"jawOpen": held(mara, take)["ids"][:3]}, about=0, time=0.5)
    assert held(mara, take)["keys"][1][0] <= copied[1][0]


def test_an_edit_is_previewed_without_being_kept(mara, take):
    before = tidied(mara, take)
    edit = {
        "do": "brush",
        "channels": {"jawOpen": []},
        "way": "pull",
        "centre": 100,
        "size": 15,
        "amount": 1,
        "value": 0.9,
    }
    head, arrays = evaluated(mara, take, ["tidied"], trial=Trial(edit=edit))
    assert arrays["tidied"][100, head["channels"].index("jawOpen")] == pytest.approx(0.9, abs=0.01)
    np.testing.assert_array_equal(tidied(mara, take), before)


@pytest.mark.parametrize(
    ("edit", "says"),
    [
        ({"do": "polish", "channels": {"jawOpen": []}}, "polish"), ({"do": "move", "channels": {}}, "names no channel"),
        ({"do": "move", "channels": {"jawOpen": []}}, "holds no keys"), ({"do": "move", "channels": {"jawOpen": ["k3"]}}, "no key 'k3'"), ({"do": "move", "channels": {"jawOpen": [3]}}, "list of their ids"),
        ({"do": [], "channels": {"jawOpen": []}}, "do is"), ({"do": "draw", "channels": {"jawOpen": []}, "points": [1, 2]}, "each point"),
        ({"do": "draw", "channels": {"jawOpen": []}, "points": [[1, 0]]}, "2 to"), ({"do": "reduce", "channels": {"elbow": []}}, "elbow"),
        ({"do": "draw", "channels": {"jawOpen": []}, "points": [[1, 0], [1.2, 1]]}, "no frame"),
        ({"do": "restore", "channels": {"jawOpen": []}, "first": 9, "last": 3}, "no stretch"),
        ({"do": "brush", "channels": {"jawOpen": []}, "way": "scrub", "centre": 50}, "scrub"),
        ({"do": "reduce", "channels": {"jawOpen": []}, "tolerance": 5}, "tolerance is 5"),
    ],
)  # fmt: skip
def test_an_edit_that_makes_no_sense_is_refused_and_nothing_changes(mara, take, edit, says):
    before = open_take(mara, take).take
    with pytest.raises(InputError, match=says):
        edit_keys(mara, take, before.version, "try", edit)
    assert open_take(mara, take).take == before


def test_every_edit_has_a_name_that_says_what_it_does():
    assert all(name.isalpha() and name.islower() for name in EDITS)


def test_two_takes_of_one_moment_lie_side_by_side_by_timecode(mara, production, take):
    other = import_take(mara, production, "4B", "Mara Quill", demo(mara, "mara_ferry.csv")).id
    head, arrays = compare_takes(mara, take, other)
    assert head["by"] == "timecode"
    assert arrays["other"].shape[1] == len(head["channels"])
    rms, peak, here, there = head["numbers"]["jawOpen"]
    assert 0 < rms < peak < 0.2
    assert here > 0 < there


def test_takes_of_others_stay_out_of_sight(stranger, take):
    for look in (list_snags, propose_stack):
        with pytest.raises(NotFoundError):
            look(stranger, take)
    with pytest.raises(NotFoundError):
        edit_keys(stranger, take, 1, "try", {"do": "reduce", "channels": {"jawOpen": []}})
