"""What a drag in a layer shows: only what changes comes, and it is what the whole evaluation gives."""

import numpy as np
import pytest

from dynaface.assets import ASSETS
from dynaface.core.evaluate.difference import patched
from dynaface.services.edit_document import edit_document
from dynaface.services.pieces import Piece
from dynaface.services.shot.evaluate_shot import evaluate_role
from dynaface.services.shot.make_shot import add_layer, make_shot
from dynaface.services.shot.open_shot import open_shot
from dynaface.services.shot.snapshot import ShotWish
from dynaface.services.take.import_take import import_character, import_take
from tests.conftest import stored
from tests.services.evaluated import put

ALL = ("raw", "tidied", "weights", "motion", "root", "shifts")
SPAN = put("spans/s", {"first": 60, "last": 70, "offset": {"jawOpen": 0.3, "headTurn": 5.0}})


@pytest.fixture
def shot(mara, production):
    rig = stored(mara, (ASSETS / "characters/odile.glb").read_bytes(), "odile.glb")
    import_character(mara, production, "Odile", rig)
    files = [stored(mara, (ASSETS / "demo" / n).read_bytes(), n) for n in ("mara_lamp.csv",)]
    takes = [import_take(mara, production, slate, "Mara Quill", files).id for slate in ("4A", "4B", "4C")]
    return make_shot(mara, production, "Landing", takes=takes)


@pytest.fixture
def layer(mara, shot):
    return add_layer(mara, shot.id, shot.body.ordered[0], "lip", "add", [])


def asked(work, shot, have=None, wish=None):
    pieces = [Piece(p, (have or {}).get(p, "")) for p in ALL]
    head, arrays = evaluate_role(work, shot.id, shot.body.ordered[0], pieces, wish)
    said = {p["part"]: p for p in head["pieces"]}
    return head, said, arrays


def tables(said, arrays, before=None):
    """part -> (frames, columns, size), made of what was held where only runs came."""
    out = {}
    for part, p in said.items():
        if p["of"]:
            out[part] = patched(before[part], arrays[f"{part} runs"], arrays[part])
        else:
            out[part] = arrays[part].reshape(p["count"], -1, p["size"])
    return out


def test_only_what_changes_comes_and_it_is_what_the_whole_gives(mara, shot, layer):
    _, said, arrays = asked(mara, shot)
    held, tags = tables(said, arrays), {p: s["tag"] for p, s in said.items()}
    wish = ShotWish(layers={layer.id: [SPAN]})
    head, quick, few = asked(mara, shot, tags, wish)
    assert all(p["of"] for p in quick.values())
    # The stretch alone came, far less than a tenth of the shot.
    assert 0 < len(few["tidied"]) < held["tidied"].shape[0] * held["tidied"].shape[1] / 10
    whole_head, whole, full = asked(mara, shot, None, wish)
    assert {p: s["tag"] for p, s in quick.items()} == {p: s["tag"] for p, s in whole.items()}
    assert {k: v for k, v in head.items() if k != "pieces"} == {k: v for k, v in whole_head.items() if k != "pieces"}
    made, wanted = tables(quick, few, held), tables(whole, full)
    for part in ("raw", "tidied", "weights", "root"):
        assert np.nan_to_num(made[part]) == pytest.approx(np.nan_to_num(wanted[part]), abs=1e-4), part
    assert np.abs((made["motion"] * wanted["motion"]).sum(axis=2)) == pytest.approx(1, abs=1e-4)


def test_what_the_asker_holds_of_another_state_is_sent_as_it_is_now(mara, shot, layer):
    _, said, arrays = asked(mara, shot)
    tags = {p: s["tag"] for p, s in said.items()}
    changed = edit_document(mara, layer.id, layer.version, "span", [SPAN])
    wish = ShotWish(layers={layer.id: [put("spans/s/strength", 0.5)]})
    _, quick, few = asked(mara, shot, tags, wish)
    _, whole, full = asked(mara, shot, None, wish)
    made, wanted = tables(quick, few, tables(said, arrays)), tables(whole, full)
    assert np.array_equal(np.nan_to_num(made["tidied"]), np.nan_to_num(wanted["tidied"]))
    assert next(n for n in open_shot(mara, shot.id).layers if n.id == layer.id).version == changed.version


def test_a_wish_that_changes_nothing_sends_nothing(mara, shot, layer):
    _, said, _ = asked(mara, shot)
    wish = ShotWish(layers={layer.id: [put("name", "other")]})
    _, quick, few = asked(mara, shot, {p: s["tag"] for p, s in said.items()}, wish)
    assert all(p["of"] for p in quick.values())
    assert all(len(few[part]) == 0 for part in quick)
