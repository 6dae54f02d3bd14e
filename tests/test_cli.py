"""The command line, as a person types it."""

import json
import subprocess
import sys

import pytest

from dynaface.demo.seed import ASSETS
from dynaface.formats.gltf.bake import sample_glb

DEMO = ASSETS / "demo"


def run(*arguments, ok=True):
    made = subprocess.run(
        [sys.executable, "-m", "dynaface", *map(str, arguments)], capture_output=True, text=True, check=False
    )
    assert made.returncode == (0 if ok else 2), made.stderr
    if not ok:
        assert made.stderr.count("\n") == 1
        assert "Traceback" not in made.stderr
    return made.stdout if ok else made.stderr


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


@pytest.mark.parametrize(
    ("file", "kind"), [("mara_lamp.csv", "curves"), ("mara_lamp.wav", "sound"), ("mara_lamp_body.bvh", "body")]
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
        (b"time,jawOpen\n0,0\n0.1,1\n0.2,0\n", ["deliver", "{f}", "--character", "{f}", "--out", "{o}"], "no glTF"),
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
