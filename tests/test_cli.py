"""The command line, as a person types it."""

import io
import json
import subprocess
import sys
from contextlib import redirect_stderr, redirect_stdout
from fractions import Fraction

import numpy as np
import pytest

from dynaface.assets import ASSETS
from dynaface.cli import main
from dynaface.core.body.skeleton import Motion
from dynaface.core.shapes.standard import HEAD_ANGLES
from dynaface.formats.entries import bvh, c3d, marker_table
from dynaface.formats.entries.curve_table import read_table, table_to_channels
from dynaface.formats.gltf.bake import sample_glb
from dynaface.sims.footage.dots import PLACES
from dynaface.sims.footage.script import NAMES
from dynaface.sims.skeletons import BUILDS, make
from dynaface.sims.walk import walk
from tests.core.test_markers import optical_take
from tests.makers import film
from tests.services.test_dot_takes import dotted
from tests.services.test_hands import gloves

DEMO = ASSETS / "demo"


def run(*arguments, ok=True):
    """What a command prints. It runs in this process: what starting one costs is paid once, in the test below."""
    said, refused, status = io.StringIO(), io.StringIO(), 0
    with redirect_stdout(said), redirect_stderr(refused):
        try:
            main([str(a) for a in arguments])
        except SystemExit as ended:
            status = ended.code or 0
    assert status == (0 if ok else 2), refused.getvalue()
    if not ok:
        assert refused.getvalue().count("\n") == 1
    return said.getvalue() if ok else refused.getvalue()


def test_it_is_a_command_of_its_own(tmp_path):
    (tmp_path / "bad.csv").write_bytes(b"")
    started = [sys.executable, "-m", "dynaface", "check", str(tmp_path / "bad.csv")]
    made = subprocess.run(started, capture_output=True, text=True, check=False)
    assert (made.returncode, made.stdout) == (2, "")
    assert made.stderr.count("\n") == 1
    assert "Traceback" not in made.stderr


def test_a_take_from_a_phone_table_to_a_character(tmp_path):
    report = json.loads(run("import", DEMO / "mara_lamp.csv", "--rate", "60", "--json", "--out", tmp_path / "even.csv"))
    assert report["dropped"] > 10
    (tmp_path / "stack.json").write_text(
        json.dumps({"dynafaceStack": 1, "steps": [{"step": "smooth", "amount": {"lips": 0.5}}]})
    )
    run("tidy", tmp_path / "even.csv", "--stack", tmp_path / "stack.json", "--out", tmp_path / "clean.csv")
    said = run("deliver", tmp_path / "clean.csv", "--character", ASSETS / "characters/odile.glb", "--body", DEMO / "mara_lamp_body.bvh",
               "--head-weight", "1.0", "--sound", DEMO / "mara_lamp.wav", "--out", tmp_path / "shot.glb")  # fmt: skip
    assert "52 targets" in said
    read = sample_glb((tmp_path / "shot.glb").read_bytes(), [0, 100])
    assert ("hips", "translation") in read
    assert read[("face", "weights")].shape == (2, 52)


def test_a_clip_is_solved_with_a_card_made_once(tmp_path):
    (tmp_path / "clip.mp4").write_bytes(film())
    samples = {"neutral": [0, 6], "samples": {"jawOpen": 30}}
    (tmp_path / "samples.json").write_text(json.dumps(samples))
    said = run(
        "card",
        tmp_path / "clip.mp4",
        "--samples",
        tmp_path / "samples.json",
        "--fov",
        "38",
        "--out",
        tmp_path / "card.json",
    )
    assert "1 shapes sampled" in said
    found = json.loads(run("solve", tmp_path / "clip.mp4", "--card", tmp_path / "card.json", "--first", "2", "--last", "21",
                           "--json", "--out", tmp_path / "curves.csv"))  # fmt: skip
    assert found["frames"] == 20
    assert found["lostFrames"] == 0
    assert 0 < found["confidence"] <= 1
    recording, _ = read_table((tmp_path / "curves.csv").read_bytes())
    assert recording.values.shape == (20, 58)
    assert "20 frames" in run(
        "tidy", tmp_path / "curves.csv", "--stack", _stack(tmp_path), "--out", tmp_path / "clean.csv"
    )


def test_a_clip_alone_says_what_it_took_for_neutral(tmp_path):
    (tmp_path / "clip.mp4").write_bytes(film())
    solve = ("solve", tmp_path / "clip.mp4", "--first", "2", "--last", "9", "--out", tmp_path / "curves.csv")
    assert "taken for neutral: frames" in run(*solve)
    chosen = json.loads(run(*solve, "--neutral", "20", "--json"))
    assert chosen["neutralFrames"] == list(range(14, 27))
    assert chosen["frames"] == 8
    assert "is to be neutral" in run(*solve, "--neutral", "400", ok=False)


def test_a_performer_is_simulated_with_the_truth(tmp_path):
    run("simulate", "--seed", "5", "--seconds", "0.4", "--out", tmp_path / "a.mp4", "--truth", tmp_path / "a.csv")
    run("simulate", "--seed", "5", "--seconds", "0.4", "--out", tmp_path / "b.mp4")
    assert (tmp_path / "a.mp4").read_bytes() == (tmp_path / "b.mp4").read_bytes()
    recording, _ = read_table((tmp_path / "a.csv").read_bytes())
    assert len(recording.times) == 13
    assert "seconds is 0" in run("simulate", "--seconds", "0", "--out", tmp_path / "c.mp4", ok=False)


def _stack(folder):
    (folder / "stack.json").write_text(json.dumps({"dynafaceStack": 1, "steps": [{"step": "smooth"}]}))
    return folder / "stack.json"


@pytest.mark.parametrize(
    ("arguments", "says"),
    [
        (("solve", DEMO / "mara_lamp.wav", "--out", "x.csv"), "not footage"),
        (("solve", DEMO / "mara_rom.mp4", "--card", DEMO / "lines.json", "--out", "x.csv"), "no performer card"),
        (("solve", DEMO / "mara_clip.mp4", "--rom", DEMO / "mara_rom.mp4", "--out", "x.csv"), "needs --samples"),
        (
            ("solve", DEMO / "mara_clip.mp4", "--card", DEMO / "mara_card.json", "--neutral", "3", "--out", "x.csv"),
            "its own",
        ),
        (("card", DEMO / "mara_rom.mp4", "--samples", DEMO / "lines.json", "--out", "x.json"), "names no samples"),
        (
            ("card", DEMO / "mara_clip.mp4", "--samples", DEMO / "mara_samples.json", "--out", "x.json"),
            "but the clip has",
        ),
    ],
)
def test_what_cannot_be_solved_is_one_clear_line(arguments, says):
    assert says in run(*arguments, ok=False)


@pytest.mark.parametrize(
    ("file", "kind"),
    [
        ("mara_lamp.csv", "curves"),
        ("mara_lamp.wav", "sound"),
        ("mara_lamp_body.bvh", "body"),
        ("mara_clip.mp4", "footage"),
    ],
)
def test_check_says_what_a_file_is(file, kind):
    assert json.loads(run("check", DEMO / file, "--json"))["kind"] == kind
    assert file in run("check", DEMO / file)


@pytest.mark.parametrize(
    ("make", "arguments", "says"),
    [
        (b"", ["check", "{f}"], "is empty"), (b"dear diary\nno table\n", ["check", "{f}"], "content is something else"),
        (b"time,jawOpen\n0,inf\n", ["import", "{f}", "--out", "{o}"], "line 2"), (b"time,jawOpen\n0,0\n1,1\n", ["import", "{f}", "--rate", "fast", "--out", "{o}"], "frame rate"),
        (b"{", ["tidy", "x.csv", "--stack", "{f}", "--out", "{o}"], "no JSON"), (b"", ["check", "gone.csv"], "gone.csv"),
        (b"time,jawOpen\n0,0\n0.1,1\n0.2,0\n", ["deliver", "{f}", "--character", "{f}", "--out", "{o}.glb"], "no glTF"),
    ],
)  # fmt: skip
def test_bad_input_is_one_clear_line_and_status_2(tmp_path, make, arguments, says):
    file = tmp_path / "given.csv"
    file.write_bytes(make)
    filled = [a.format(f=file, o=tmp_path / "out") for a in arguments]
    assert says in run(*filled, ok=False)
    assert not (tmp_path / "out").exists()


def test_help_reads_like_a_page():
    assert "examples:" in run("--help")
    for command in ("import", "check", "tidy", "deliver"):
        assert "--" in run(command, "--help")


def test_the_snags_of_a_table_are_listed_and_told_as_json():
    said = run("snags", DEMO / "mara_second.csv", "--sound", DEMO / "mara_second.wav")
    assert "head pop: The head jumps" in said
    assert "snags in 5.5 s" in said
    found = json.loads(run("snags", DEMO / "mara_second.csv", "--json"))
    assert {"kind", "region", "first", "last", "severity", "measured", "limit", "words", "steps"} <= set(found[0])
    assert "sound off" not in {s["kind"] for s in found}


def test_a_stack_is_proposed_run_and_reduced_to_keys(tmp_path):
    stack, clean, keys = tmp_path / "stack.json", tmp_path / "clean.csv", tmp_path / "keys.json"
    said = run("tidy", DEMO / "mara_second.csv", "--propose", "--out-stack", stack)
    assert "even out time: " in said
    run("tidy", DEMO / "mara_second.csv", "--stack", stack, "--out", clean)
    assert json.loads(run("snags", clean, "--json")) == []
    report = json.loads(run("reduce", clean, "--tolerance", "0.005", "--out", keys, "--json"))
    assert report["jawOpen"]["worst"] <= 0.005
    written = json.loads(keys.read_text())
    assert len(written["channels"]["jawOpen"]) == report["jawOpen"]["keys"]
    assert written["dynafaceKeys"] == 1


def test_a_tidy_command_that_says_nothing_to_do_is_refused(tmp_path):
    assert "--propose" in run("tidy", DEMO / "mara_lamp.csv", "--out", tmp_path / "x.csv", ok=False)
    assert "goes nowhere" in run("tidy", DEMO / "mara_lamp.csv", "--propose", ok=False)
    assert "tolerance is 9" in run(
        "reduce", DEMO / "mara_lamp.csv", "--tolerance", "9", "--out", tmp_path / "k.json", ok=False
    )


def test_a_character_s_health_is_told(tmp_path):
    assert "52 of the 52 shapes, lengths in metres, y is up" in run("character", ASSETS / "characters/odile.glb")
    found = json.loads(run("character", ASSETS / "characters/odile.glb", "--json"))
    assert found["findings"] == []
    assert len(found["present"]) == 52
    (tmp_path / "cut.glb").write_bytes((ASSETS / "characters/odile.glb").read_bytes()[:5000])
    assert "cut.glb: " in run("character", tmp_path / "cut.glb", ok=False)


def test_a_foreign_character_is_cast_and_delivered_with_its_sheet(tmp_path):
    sheet = tmp_path / "sheet.json"
    said = run("cast", "--character", ASSETS / "characters/brindle.glb", "--out", sheet)
    assert "gawp -> jawOpen, 1 (shape, 95%)" in said
    assert "left alone: ear flick P, ear flick S, gawp and grin" in said
    written = json.loads(sheet.read_text())
    assert written["matches"]["grin P"] == {"mouthSmileLeft": 1.0}
    options = ("--character", ASSETS / "characters/brindle.glb", "--sheet", sheet, "--out", tmp_path / "b.glb")
    report = run("deliver", DEMO / "mara_clip.csv", *options)
    assert "49 targets" in report
    assert "same as the viewer at 20 frames: worst difference" in report


def test_markers_are_laid_out_and_solved(tmp_path):
    take, truth = optical_take()
    (tmp_path / "day.c3d").write_bytes(c3d.write(take))
    said = run("layout", tmp_path / "day.c3d", "--neutral", "0", "30", "--out", tmp_path / "layout.json")
    assert "74 of 74 markers" in said
    solved = run(
        "solve", tmp_path / "day.c3d", "--layout", tmp_path / "layout.json", "--out", tmp_path / "curves.csv", "--json"
    )
    report = json.loads(solved)
    assert (report["frames"], report["markers"], report["lostFrames"]) == (240, 74, 0)
    assert report["residualMillimetres"] < 1.5
    assert "tongueOut" in report["notSeen"]
    curves = table_to_channels((tmp_path / "curves.csv").read_bytes())
    acted = [
        n for n in curves.names if n in truth.names and truth.column(n).std() > 0.08 and n not in report["notSeen"]
    ]
    moving = [n for n in acted if not n.startswith(("eyeLook", "head"))]
    assert len(moving) > 3
    assert np.median([np.corrcoef(curves.column(n), truth.column(n))[0, 1] for n in moving]) > 0.85
    assert "markers need --layout" in run("solve", tmp_path / "day.c3d", "--out", tmp_path / "x.csv", ok=False)
    # A table of the same markers gives the same curves; what was mended is markers again.
    (tmp_path / "day.csv").write_bytes(marker_table.write(take))
    said = run("solve", tmp_path / "day.csv", "--layout", tmp_path / "layout.json", "--out", tmp_path / "again.csv",
               "--mended", tmp_path / "mended.c3d")  # fmt: skip
    assert "put right:" in said
    again = table_to_channels((tmp_path / "again.csv").read_bytes())
    np.testing.assert_allclose(again.values, curves.values, atol=0.02)
    mended = c3d.read((tmp_path / "mended.c3d").read_bytes())
    assert (mended.frames, len(mended.labels)) == (240, 74)
    assert np.isfinite(mended.points).all()


def test_dots_are_picked_and_solved(tmp_path):
    data, centres, values = dotted()
    (tmp_path / "mount.mp4").write_bytes(data)
    picks = [arg for place, (x, y) in zip(PLACES, centres[0], strict=True) if not place.endswith(" left")
             for arg in ("--pick", f"{place}={x:.1f},{y:.1f}")]  # fmt: skip
    pick = ["dots", tmp_path / "mount.mp4", *picks, "--mirror", "--neutral", "0", "6", "--fov", "70"]
    assert "14 dots" in run(*pick, "--out", tmp_path / "dots.json")
    solved = ["solve", tmp_path / "mount.mp4", "--layout", tmp_path / "dots.json", "--out", tmp_path / "curves.csv"]
    report = json.loads(run(*solved, "--json"))
    assert (report["frames"], report["dots"]) == (30, 14)
    assert "jawOpen" in report["seen"]["well"] + report["seen"]["weakly"]
    curves = table_to_channels((tmp_path / "curves.csv").read_bytes())
    assert np.corrcoef(curves.column("jawOpen"), values[:, NAMES.index("jawOpen")])[0, 1] > 0.9
    # The same clip, as if its camera stood: the head's angles are told along.
    run(*pick, "--head-moves", "--out", tmp_path / "dots.json")
    run(*solved)
    assert set(HEAD_ANGLES) <= set(table_to_channels((tmp_path / "curves.csv").read_bytes()).names)
    assert "picks no dot" in run(
        "dots", tmp_path / "mount.mp4", "--pick", "chin", "--out", tmp_path / "x.json", ok=False
    )
    assert "elbow" in run("dots", tmp_path / "mount.mp4", "--pick", "elbow=1,2", "--out", tmp_path / "x.json", ok=False)


def test_recordings_of_a_moment_are_lined_up(tmp_path):
    out = tmp_path / "lineup.json"
    said = run("line-up", DEMO / "mara_lamp.csv", DEMO / "mara_lamp.wav", "--by", "lips", "--out", out)
    first, second = json.loads(out.read_text())["sources"]
    assert first == {
        "file": "mara_lamp.csv",
        "start": 0.0,
        "how": "first",
        "confidence": 1.0,
        "drift": 0.0,
        "against": "",
    }
    assert (second["file"], second["how"], second["against"]) == ("mara_lamp.wav", "lips", "mara_lamp.csv")
    assert abs(second["start"]) < 0.75
    assert "by lips" in said
    refused = run("line-up", DEMO / "mara_lamp.csv", DEMO / "mara_lamp.wav", "--by", "clap", "--out", out, ok=False)
    assert "nothing lines these recordings up" in refused
    assert "cannot be lined up" in run("line-up", "--out", out, DEMO / "mara_lamp.csv", ok=False)
    assert "odile.glb" in run(
        "line-up", DEMO / "mara_lamp.csv", ASSETS / "characters/odile.glb", "--out", out, ok=False
    )


def test_contacts_of_a_body_take_are_written(tmp_path):
    body, out = tmp_path / "walk.bvh", tmp_path / "contacts.json"
    made = walk(60, 3)
    body.write_bytes(bvh.write(made.motion))
    assert "left foot: " in run("contacts", body, "--out", out)
    found = json.loads(out.read_text())
    assert set(found) == {p + s for p in ("foot", "heel", "toe", "hand") for s in ("Left", "Right")} | {"hands"}
    assert np.abs(np.array(found["footLeft"]) - made.spans["footLeft"]).max() <= 2
    assert "right hand on the head: 1 touches" in run("contacts", DEMO / "mara_lamp_body.bvh", "--out", out)
    ((first, last),) = json.loads(out.read_text())["handRight"]
    assert (first / 120, last / 120) == pytest.approx((6.5, 7.6), abs=0.1)
    assert "not a body take" in run("contacts", DEMO / "mara_lamp.csv", "--out", out, ok=False)


def test_face_body_and_hands_are_joined_on_a_character(tmp_path):
    hands, said, joined = tmp_path / "gloves.bvh", tmp_path / "join.json", tmp_path / "shot.glb"
    hands.write_bytes(gloves())
    odile, body = ASSETS / "characters/odile.glb", DEMO / "mara_lamp_body.bvh"
    run("tidy", DEMO / "mara_lamp.csv", "--propose", "--out", tmp_path / "clean.csv")
    shared = ("--body", body, "--character", odile, "--out", joined)
    run("match", body, "--character", odile, "--out", tmp_path / "match.json")
    said.write_text(json.dumps({"travel": "spot", "headWeight": 0.5, "arms": 1.0, "hands": "left"}))
    run("join", tmp_path / "clean.csv", *shared)
    frames = np.arange(0, 300, 50)
    plain = sample_glb(joined.read_bytes(), frames)
    written = run(
        "join", tmp_path / "clean.csv", *shared, "--hands", hands, "--join", said, "--match", tmp_path / "match.json"
    )
    assert "wrote" in written
    found = sample_glb(joined.read_bytes(), frames)
    assert np.ptp(plain["hips", "translation"][:, [0, 2]]) > np.ptp(found["hips", "translation"][:, [0, 2]])
    for joint, moved in (("middle1Left", True), ("middle1Right", False)):
        assert (np.abs(found[joint, "rotation"] - plain[joint, "rotation"]).max() > 0.1) == moved
    said.write_text('{"travel": "far"}')
    assert "join.json: travel is 'far'" in run("join", tmp_path / "clean.csv", *shared, "--join", said, ok=False)
    assert "odile.glb: no animation" in run("join", tmp_path / "clean.csv", *shared, "--hands", odile, ok=False)


def test_joints_of_a_body_are_matched_to_those_of_a_character(tmp_path):
    body, out = tmp_path / "strange.bvh", tmp_path / "match.json"
    made = make(BUILDS[0], 12, "nonsense")
    still = made.skeleton.rest[None].repeat(2, axis=0)
    body.write_bytes(bvh.write(Motion(made.skeleton, still, np.zeros((2, 3)), Fraction(60))))
    odile = ASSETS / "characters/odile.glb"
    assert "joints of the character are matched" in run("match", body, "--character", odile, "--out", out)
    found = json.loads(out.read_text())
    truth = dict(zip(made.skeleton.names, made.truth, strict=True))
    said = {ours: truth[theirs] for ours, theirs in found["matches"].items()}
    assert (said["hips"], said["handLeft"], said["thumb2Right"]) == ("hips", "L hand", "R finger 1 2")
    assert set(found["confidence"]) == set(found["matches"])
    assert "no animation of this file" in run("match", odile, "--character", odile, "--out", out, ok=False)


def test_what_is_handed_over_is_chosen_by_the_ending(tmp_path):
    character, voice = ASSETS / "characters/odile.glb", DEMO / "mara_clip.wav"
    whole = (
        "deliver",
        DEMO / "mara_clip.csv",
        "--character",
        character,
        "--first",
        "30",
        "--last",
        "89",
        "--rate",
        "24",
    )
    for name, says in (("a.usda", "USD validators on a.usda: 0 errors"), ("a.bvh", "body reads back: 48 of 48"), ("a.csv", "curve table reads back: 48 of 48"),
                       ("a.otio", "edit list reads back: 1 of 1"), ("a.png", "stills read back: 2 of 2")):  # fmt: skip
        more = ("--set", "count=2") if name.endswith("png") else ()
        assert says in run(*whole, *more, "--out", tmp_path / name)
    assert (tmp_path / "a.usda").read_bytes()[:5] == b"#usda"
    assert "it must be one of y, z" in run(*whole, "--set", "up=x", "--out", tmp_path / "b.bvh", ok=False)
    said = run(
        "deliver",
        DEMO / "mara_clip.csv",
        "--character",
        character,
        "--sound",
        voice,
        "--preset",
        "engine",
        "--out",
        tmp_path / "engine",
    )
    assert "sound reads back" in said
    assert {f.name for f in (tmp_path / "engine").iterdir()} == {"mara_clip.glb", "mara_clip.wav"}
    (tmp_path / "own.json").write_text(json.dumps({"forms": {"curve table": {}}, "options": {"head": False}}))
    run("deliver", DEMO / "mara_clip.csv", "--preset", tmp_path / "own.json", "--out", tmp_path / "own")
    assert "headTurn" not in (tmp_path / "own/mara_clip.csv").read_text().splitlines()[0]
    assert "no preset 'gone'" in run(
        "deliver", DEMO / "mara_clip.csv", "--preset", "gone", "--out", tmp_path / "x", ok=False
    )
