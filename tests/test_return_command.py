"""`dynaface return`: what was handed over, edited and brought back, from files to a layer."""

import json

import numpy as np
import pytest

from dynaface.assets import ASSETS
from dynaface.cli import main
from dynaface.core.curves.channels import Channels
from dynaface.core.layers.layer import apply_layer
from dynaface.formats.entries.curve_table import table_to_channels, write_table
from dynaface.formats.shot_file import LayerFields
from tests.makers import channels


@pytest.fixture
def handed(tmp_path):
    """A table, and the folder that it lies in."""
    made = channels(frames=60)
    (tmp_path / "shot.csv").write_bytes(write_table(made))
    return made, tmp_path


def edited(made: Channels) -> Channels:
    values = made.values.copy()
    values[20:31, made.names.index("jawOpen")] += np.float32(0.25)
    return made.with_values(values)


def returned(folder, name, *more):
    main(["return", str(folder / name), "--of", str(folder / f"shot.{name.rpartition('.')[2]}"), *more, "--out", str(folder / "layer.json")])  # fmt: skip
    return json.loads((folder / "layer.json").read_text())


def test_unchanged_it_is_an_empty_layer(handed, capsys):
    _, folder = handed
    (folder / "back.csv").write_bytes((folder / "shot.csv").read_bytes())
    out = returned(folder, "back.csv")
    assert out["channels"] == {}
    assert out["layer"]["spans"] == {}
    assert "nothing is different" in capsys.readouterr().out


def test_its_layer_gives_what_came_back(handed, capsys):
    made, folder = handed
    (folder / "back.csv").write_bytes(write_table(edited(made)))
    out = returned(folder, "back.csv")
    assert list(out["channels"]) == ["jawOpen"]
    assert out["channels"]["jawOpen"]["channel"]["runs"] == [[20, 30]]
    layer = LayerFields.model_validate(out["layer"])
    layer.check_face()
    was = table_to_channels((folder / "shot.csv").read_bytes())
    again = apply_layer(was, layer.layer)
    np.testing.assert_allclose(again.column("jawOpen"), edited(made).column("jawOpen"), atol=2e-3)
    assert "jawOpen (channel): by 0.25" in capsys.readouterr().out


def test_a_character_comes_back_under_other_names(handed, capsys):
    made, folder = handed
    odile = str(ASSETS / "characters/odile.glb")
    (folder / "edited.csv").write_bytes(write_table(edited(made)))
    main(["deliver", str(folder / "shot.csv"), "--character", odile, "--out", str(folder / "shot.glb")])
    main(["deliver", str(folder / "edited.csv"), "--character", odile, "--prefix", "rig_", "--out", str(folder / "back.glb")])  # fmt: skip
    out = returned(folder, "back.glb", "--character", odile)
    assert "jawOpen" in out["channels"]
    assert "eyeBlinkLeft" not in out["channels"]
    assert all(first >= 20 and last <= 30 for first, last in out["channels"]["jawOpen"]["weight"]["runs"])
    assert any("'rig_' taken off" in line for line in out["putRight"])
    LayerFields.model_validate(out["layer"]).check_rig()


@pytest.mark.parametrize(
    ("name", "data", "message"),
    [("back.csv", b"time,words\n0,a\n", "back.csv"), ("back.mp4", b"", "cannot come back"), ("back.glb", b"glTF", "")],
)
def test_what_cannot_be_read_is_said_and_nothing_is_written(name, data, message, handed, capsys):
    _, folder = handed
    (folder / name).write_bytes(data)
    with pytest.raises(SystemExit) as stopped:
        main(["return", str(folder / name), "--of", str(folder / "shot.csv"), "--out", str(folder / "layer.json")])
    assert stopped.value.code not in (0, None)
    assert message in capsys.readouterr().err
    assert not (folder / "layer.json").exists()
