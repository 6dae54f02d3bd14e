"""aims.json and `dynaface gaze`: looks for a curve table on files."""

import json

import numpy as np
import pytest

from dynaface.cli import main
from dynaface.core.errors import InputError
from dynaface.core.layers.gaze import angles_beneath
from dynaface.core.layers.layer import apply_layer
from dynaface.formats.aims_file import read_aims_file
from dynaface.formats.entries.curve_table import table_to_channels
from dynaface.formats.shot_file import read_shot_file
from tests.formats.test_shot_file import folder, shot  # noqa: F401

AIMS = {
    "aims": {"lamp": {"at": [0.5, 0.0, 1.0]}, "nose": {"at": [0.0, -0.05, 0.5], "onHead": True}},
    "looks": [[10, "lamp"], [60, "nose"]],
}


def made(folder, *more, aims=AIMS):  # noqa: F811
    (folder / "aims.json").write_text(json.dumps(aims))
    main(
        ["gaze", str(folder / "a.csv"), "--aims", str(folder / "aims.json"), *more, "--out", str(folder / "layer.json")]
    )
    layer = read_shot_file(
        json.dumps(shot(layers=[json.loads((folder / "layer.json").read_text())])).encode(), "s"
    ).layers[0]
    return apply_layer(table_to_channels((folder / "a.csv").read_bytes()), layer.layer)


def test_eyes_of_a_table_look_at_an_aim(folder, capsys):  # noqa: F811
    result = made(folder, "--head", "0")
    wrote = capsys.readouterr().out
    assert "eyeLookOutLeft" in wrote
    assert "headTurn" not in wrote
    turn = angles_beneath(result, "left")[40, 0]
    assert turn == pytest.approx(
        np.degrees(np.arctan2(0.5 - 0.031, 1.0)), abs=2.0
    )  # small steps, and keys within a tolerance


def test_looks_of_the_table_are_taken_and_told(folder, capsys):  # noqa: F811
    made(folder, "--snap", "45", aims={"aims": {"far": {"at": [0.3, 0.0, 5.0]}}})
    assert "fixations:" in capsys.readouterr().out


@pytest.mark.parametrize(
    ("wrong", "says"),
    [({"looks": [[10, "moon"]]}, "moon"), ({"looks": [[-1, "lamp"]]}, "looks"), ({"aims": {"a": {"at": [0, 1]}}}, "at"),
     ({"aims": {"a": {"at": [0, 1, 1e9]}}}, "at"), ({"aims": []}, "aims"), ({"extra": 1}, "extra")],
)  # fmt: skip
def test_what_cannot_be_is_refused_with_the_place(wrong, says):
    with pytest.raises(InputError) as refused:
        read_aims_file(json.dumps({**AIMS, **wrong}).encode(), "aims.json")
    assert says in f"{refused.value.where} {refused.value}"


def test_no_look_at_all_is_refused(folder, capsys):  # noqa: F811
    with pytest.raises(SystemExit) as ended:
        made(folder, aims={"aims": AIMS["aims"]})
    assert ended.value.code == 2
    assert "no look" in capsys.readouterr().err
