"""Handovers: what is asked for, what is made, and a report that says when something is wrong."""

from dataclasses import replace
from fractions import Fraction

import numpy as np
import pytest

from dynaface.assets import ASSETS
from dynaface.core.cast.sheet import CastSheet
from dynaface.core.clock.timecode import parse_timecode
from dynaface.core.errors import CancelledError, InputError
from dynaface.core.perform.perform import perform_take
from dynaface.core.shapes.standard import HEAD_ANGLES, SHAPES
from dynaface.formats.character_file import open_character
from dynaface.formats.entries import bvh, curve_table
from dynaface.formats.gltf.bake import sample_glb
from dynaface.pipelines.bake_handover import HandoverSettings, bake_handover, parse_handover, write_files
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


def baked(performed, odile, settings=None, **more):
    return bake_handover(performed, odile[1], odile[0].skeleton, settings or HandoverSettings(), "4A_1", **more)


def checks_of(made):
    return {c["what"]: c for c in made.report["checks"]}


class TestSettings:
    def test_have_defaults(self):
        assert parse_handover({}) == HandoverSettings()

    def test_are_taken_as_given(self):
        made = parse_handover({"glb": False, "table": True, "bvh": True, "head": False, "rate": "24"})
        assert made == HandoverSettings(glb=False, table=True, bvh=True, head=False, rate="24")

    @pytest.mark.parametrize(
        ("given", "message"),
        [
            ({"fbx": True}, "handover setting is 'fbx'"),
            ({"glb": "yes"}, "glb is 'yes'"),
            ({"rate": "fast"}, "fast"),
            ({"glb": False, "table": False, "bvh": False}, "nothing is chosen"),
        ],
    )
    def test_that_make_no_sense_are_refused(self, given, message):
        with pytest.raises(InputError, match=message):
            parse_handover(given)


class TestFiles:
    def test_are_those_that_were_chosen_named_after_the_take(self, performed, odile):
        made = baked(performed, odile, HandoverSettings(glb=True, table=True, bvh=True))
        assert set(made.files) == {"4A_1.csv", "4A_1.bvh", "4A_1.glb"}
        assert set(baked(performed, odile, HandoverSettings(glb=False)).files) == {"4A_1.csv"}

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
        made = baked(performed, odile, HandoverSettings(glb=False, head=False))
        recording, _ = curve_table.read_table(made.files["4A_1.csv"])
        known = ~np.isnan(recording.values).all(axis=0)
        moved = {n for n, k in zip(recording.names, known, strict=True) if k}
        assert not moved & set(HEAD_ANGLES)
        assert moved & set(SHAPES)

    def test_of_a_body_have_its_frames(self, performed, odile):
        made = baked(performed, odile, HandoverSettings(glb=False, table=False, bvh=True))
        assert bvh.read(made.files["4A_1.bvh"]).frames == 40

    def test_are_written_into_a_folder(self, performed, odile, tmp_path):
        write_files(baked(performed, odile), tmp_path)
        assert {f.name for f in tmp_path.iterdir()} == {"4A_1.csv", "4A_1.glb"}


class TestReport:
    def test_says_that_all_is_well(self, performed, odile):
        report = baked(performed, odile, HandoverSettings(bvh=True)).report
        assert report["ok"]
        assert report["frames"] == 40
        assert {c["what"] for c in report["checks"]} >= {"curve table reads back", "body reads back", "glTF validator"}

    def test_names_the_sound_and_the_timecode(self, performed, odile):
        sound = {"file": "voice.wav", "offsetSeconds": 0.15}
        assert baked(performed, odile, sound=sound).report["sound"] == sound

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

    def test_is_not_well_where_the_file_plays_something_else(self, performed, odile):
        """The report compares the file with the performance that it is given: here with another one."""
        from dynaface.pipelines.bake_handover import _check_values

        made = baked(performed, odile)
        other = replace(performed, cast=replace(performed.cast, weights=performed.cast.weights * 0.5 + 0.1))
        assert _check_values(made.files["4A_1.glb"], performed)["ok"]
        assert not _check_values(made.files["4A_1.glb"], other)["ok"]


class TestWork:
    def test_says_how_far_it_is(self, performed, odile):
        heard = []
        baked(performed, odile, HandoverSettings(bvh=True), progress=lambda part, words: heard.append((part, words)))
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

    def test_needs_a_character_and_a_skeleton_for_what_is_on_them(self, performed, odile):
        with pytest.raises(InputError, match="no character to hand over on"):
            bake_handover(performed, None, odile[0].skeleton, HandoverSettings(), "x")
        with pytest.raises(InputError, match="no skeleton"):
            bake_handover(performed, odile[1], None, HandoverSettings(bvh=True), "x")
