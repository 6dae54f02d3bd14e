"""Handovers: what is asked for, what is made, and a report that says when something is wrong."""

import hashlib
import json
from dataclasses import replace
from fractions import Fraction

import numpy as np
import pytest

from dynaface.assets import ASSETS
from dynaface.core.cast.sheet import CastSheet
from dynaface.core.clock.timecode import parse_timecode
from dynaface.core.errors import CancelledError, InputError
from dynaface.core.handover.asked import asked
from dynaface.core.handover.delivery import Delivery, Figure, Voice
from dynaface.core.handover.options import HandoverOptions
from dynaface.core.handover.presets import BUILT_IN
from dynaface.core.perform.perform import perform_take
from dynaface.core.shapes.standard import HEAD_ANGLES, SHAPES
from dynaface.formats.character_file import open_character
from dynaface.formats.entries import curve_table
from dynaface.formats.gltf.bake import sample_glb
from dynaface.formats.handover import Check
from dynaface.pipelines.bake_handover import (
    bake_handover,
    parse_handover,
    with_file,
    with_manifest,
    write_files,
)
from tests.makers import channels


@pytest.fixture(scope="module")
def odile():
    """(character, glTF)."""
    found, _, raw = open_character((ASSETS / "characters/odile.glb").read_bytes(), "odile.glb")
    return found, raw


@pytest.fixture(scope="module")
def performed(odile):
    made = channels(frames=40)
    made = replace(made, timecode=parse_timecode("10:00:00:00", Fraction(30)))
    return perform_take(made, odile[0], CastSheet())


def delivery(performed, odile, settings, voice=None):
    made = asked(performed, odile[0].skeleton, settings.options)
    return Delivery("4A_1", (Figure("4A_1", made, odile[1], odile[0].skeleton),), settings.options, voice)


def baked(performed, odile, given=None, voice=None, **more):
    settings = parse_handover(given or {})
    return bake_handover(delivery(performed, odile, settings, voice), settings, **more)


def checks_of(made):
    return {c["what"]: c for c in made.report["checks"]}


class TestSettings:
    def test_have_defaults(self):
        assert set(parse_handover({}).forms) == {"gltf", "curve table"}
        assert parse_handover({}).options == HandoverOptions()

    def test_are_taken_as_given_and_completed(self):
        made = parse_handover(
            {"forms": {"bvh": {"up": "z"}}, "options": {"rate": "24"}, "pattern": "{shot}_{character}"}
        )
        assert made.forms == {"bvh": {"units": "centimetres", "up": "z"}}
        assert (made.options.rate, made.pattern) == ("24", "{shot}_{character}")
        assert parse_handover(made.plain) == made

    @pytest.mark.parametrize("name", list(BUILT_IN))
    def test_of_presets_that_come_along_can_be_met(self, name):
        assert parse_handover(BUILT_IN[name]).forms

    @pytest.mark.parametrize(
        ("given", "message"),
        [
            ({"glb": True}, "handover setting is 'glb'"), ({"forms": {"papyrus": {}}}, "form of handover is 'papyrus'"),
            ({"forms": ["gltf"]}, "forms is .*a table"), ({"forms": {"gltf": 3}}, "forms.gltf is 3"),
            ({"options": {"rate": "fast"}}, "fast"), ({"forms": {}}, "nothing is chosen"), ({"pattern": "{who}"}, "who"),
        ],
    )  # fmt: skip
    def test_that_make_no_sense_are_refused(self, given, message):
        with pytest.raises(InputError, match=message):
            parse_handover(given)


class TestFiles:
    def test_are_those_that_were_chosen_named_after_the_take(self, performed, odile):
        made = baked(performed, odile, {"forms": {"gltf": {}, "curve table": {}, "bvh": {}}})
        assert set(made.files) == {"4A_1.csv", "4A_1.bvh", "4A_1.glb"}
        assert set(baked(performed, odile, {"forms": {"curve table": {}}}).files) == {"4A_1.csv"}

    def test_hold_what_the_viewer_shows(self, performed, odile):
        made = baked(performed, odile)
        recording, _ = curve_table.read_table(made.files["4A_1.csv"])
        np.testing.assert_allclose(
            recording.values[:, [recording.names.index(n) for n in performed.channels.names]],
            performed.channels.values, atol=1e-5,
        )  # fmt: skip
        target = performed.cast.targets.index("jawOpen")
        weights = sample_glb(made.files["4A_1.glb"], [0, 39])[("face", "weights")]
        assert weights.shape[0] == 2
        assert np.abs(weights - performed.cast.weights[[0, 39], target][:, None]).min() < 1e-5

    def test_leave_the_head_out_where_that_is_asked(self, performed, odile):
        made = baked(performed, odile, {"forms": {"curve table": {}}, "options": {"head": False}})
        recording, _ = curve_table.read_table(made.files["4A_1.csv"])
        known = ~np.isnan(recording.values).all(axis=0)
        moved = {n for n, k in zip(recording.names, known, strict=True) if k}
        assert not moved & set(HEAD_ANGLES)
        assert moved & set(SHAPES)

    def test_that_lack_something_are_not_begun(self, performed, odile):
        heard = []
        with pytest.raises(InputError, match=r"no sound to hand over \(Sound"):
            baked(performed, odile, {"forms": {"sound": {}}}, progress=lambda *said: heard.append(said))
        assert heard == []

    def test_are_written_into_a_folder(self, performed, odile, tmp_path):
        write_files(baked(performed, odile), tmp_path)
        assert {f.name for f in tmp_path.iterdir()} == {"4A_1.csv", "4A_1.glb"}

    def test_are_listed_in_a_manifest_with_their_hashes(self, performed, odile):
        settings = parse_handover({"forms": {"curve table": {}}, "options": {"first": 6}})
        given = delivery(performed, odile, settings)
        made = with_manifest(bake_handover(given, settings), given, settings, {"take": "t"})
        said = json.loads(made.files["4A_1.manifest.json"])
        assert said["files"]["4A_1.csv"]["sha256"] == hashlib.sha256(made.files["4A_1.csv"]).hexdigest()
        assert (said["of"], said["frames"], said["timecode"], said["timecodeRate"]) == (
            {"take": "t"},
            34,
            "10:00:00:03",
            "30",
        )
        assert parse_handover(said["settings"]) == settings

    def test_may_come_beside_and_are_judged_with_the_others(self, performed, odile):
        made = with_file(baked(performed, odile), "lantern.glb", b"x", Check("lantern", False, "gone"))
        assert made.files["lantern.glb"] == b"x"
        assert not made.report["ok"]


class TestReport:
    def test_says_that_all_is_well(self, performed, odile):
        report = baked(performed, odile, {"forms": {"gltf": {}, "curve table": {}, "bvh": {}}}).report
        assert report["ok"]
        assert report["frames"] == 40
        assert {c["what"] for c in report["checks"]} >= {"curve table reads back", "body reads back", "glTF validator"}

    def test_names_the_sound_and_the_timecode(self, performed, odile):
        sound = {"file": "voice.wav", "offsetSeconds": 0.15}
        assert baked(performed, odile, voice=Voice("voice.wav", 0.15)).report["sound"] == sound

    def test_says_that_the_validator_did_not_run(self, performed, odile):
        validator = checks_of(baked(performed, odile))["glTF validator"]
        assert validator["ok"] is None
        assert "not run" in validator["found"]

    def test_says_that_the_validator_broke(self, performed, odile):
        found = checks_of(baked(performed, odile, node="/bin/false"))["glTF validator"]
        assert found["ok"] is None
        assert "did not run" in found["found"]

    def test_counts_gaps_and_does_not_call_them_errors(self, performed, odile):
        broken = performed.channels.values.copy()
        broken[5:9] = np.nan
        made = perform_take(replace(performed.channels, values=broken), odile[0], CastSheet())
        report = baked(made, odile)
        gaps = checks_of(report)["gaps in the curves"]
        assert gaps["found"].startswith("4 frames have gaps")
        assert report.report["ok"]
        sampled = sample_glb(report.files["4A_1.glb"], [6])[("face", "weights")]
        assert np.isfinite(sampled).all()


class TestWork:
    def test_says_how_far_it_is(self, performed, odile):
        heard = []
        baked(
            performed,
            odile,
            {"forms": {"gltf": {}, "curve table": {}, "bvh": {}}},
            progress=lambda part, words: heard.append((part, words)),
        )
        parts = [p for p, _ in heard]
        assert parts == sorted(parts)
        assert all(0 < p < 1 for p in parts)
        assert all(words for _, words in heard)

    def test_stops_where_it_is_cancelled(self, performed, odile):
        def cancel(part, words):
            if part >= 0.5:
                raise CancelledError("cancelled")

        with pytest.raises(CancelledError):
            baked(performed, odile, progress=cancel)
