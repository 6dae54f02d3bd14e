"""shot.json on the command line: clips, capture weights and layers."""

import json

import numpy as np
import pytest

from dynaface.cli import main
from dynaface.core.errors import InputError
from dynaface.formats.entries.curve_table import table_to_channels, write_table
from dynaface.formats.shot_file import read_shot_file
from tests.makers import channels

CLIP = {"file": "a.csv", "start": "0", "first": "0", "last": "2"}


def shot(**more):
    return {"rate": "60", "length": "2", "clips": [CLIP]} | more


@pytest.fixture
def folder(tmp_path):
    (tmp_path / "a.csv").write_bytes(write_table(channels(120)))
    return tmp_path


def played(folder, plain):
    (folder / "shot.json").write_text(json.dumps(plain))
    main(["shot", str(folder / "shot.json"), "--out", str(folder / "out.csv")])
    return table_to_channels((folder / "out.csv").read_bytes())


def test_one_clip_alone_is_its_table(folder):
    made, table = played(folder, shot()), table_to_channels((folder / "a.csv").read_bytes())
    for name in table.names:
        np.testing.assert_array_equal(made.column(name), table.column(name))


def test_clips_repeat_and_layers_and_weights_act(folder):
    twice = {**CLIP, "last": "1", "repeats": "2"}
    layer = {"name": "lip", "spans": {"s": {"first": 10, "last": 20, "offset": {"cheekPuff": 0.3}}}}
    made = played(folder, shot(clips=[twice], layers=[layer], capture={"jaw": {"value": 0.5}}))
    table = table_to_channels((folder / "a.csv").read_bytes())
    np.testing.assert_allclose(made.column("jawOpen")[60:120], 0.5 * table.column("jawOpen")[:60], atol=1e-5)
    assert made.column("cheekPuff")[15] == pytest.approx(0.3)


def test_blinks_are_written_as_a_layer_that_a_shot_takes(folder, capsys):
    main(["blink", str(folder / "a.csv"), "--at", "30,turn", "--out", str(folder / "layer.json")])
    assert "eyeBlinkLeft" in capsys.readouterr().out
    made = played(folder, shot(layers=[json.loads((folder / "layer.json").read_text())]))
    assert made.column("eyeBlinkLeft")[30] == pytest.approx(1, abs=0.02)


@pytest.mark.parametrize(
    ("wrong", "says"),
    [({"rate": "0"}, "rate"), ({"length": "0"}, "lasts"), ({"length": "1/0"}, "length"), ({"clips": {}}, "clips"),
     ({"clips": [{**CLIP, "speed": "9"}]}, "speed"), ({"clips": [{**CLIP, "file": "../a.csv"}]}, "elsewhere"),
     ({"clips": [{**CLIP, "first": "3"}]}, "source"), ({"capture": {"hair": {}}}, "no part"), ({"layers": [{"name": "x", "does": "melt"}]}, "does"),
     ({"layers": [{"name": "x", "keys": {"nose": {"k": [0, 0, 0, 0, "flat"]}}}]}, "channel"), ({"extra": 1}, "extra"),
     ({"layers": [{"name": "x", "makers": {"m": {"maker": "rain", "rank": 1}}}]}, "maker")],
)  # fmt: skip
def test_what_cannot_be_is_refused_with_the_place(folder, capsys, wrong, says):
    with pytest.raises(SystemExit) as ended:
        played(folder, shot(**wrong))
    assert ended.value.code == 2
    assert says in capsys.readouterr().err


@pytest.mark.parametrize("data", [b"", b"[]", b"{", b"null", b'{"rate": 1e400}'])
def test_what_is_no_shot_is_refused(data):
    with pytest.raises(InputError):
        read_shot_file(data, "shot.json")


def test_blinks_that_are_nowhere_are_refused(folder, capsys):
    for given in ([], ["--at", "sneeze"]):
        with pytest.raises(SystemExit):
            main(["blink", str(folder / "a.csv"), *given, "--out", str(folder / "layer.json")])
    assert "no blink comes of this" in capsys.readouterr().err
