"""How far a filmed head went: the trunk of a take's character and of a shot's role leans after it, by as much as is asked for."""

import numpy as np
import pytest

from dynaface.assets import ASSETS
from dynaface.core.errors import InputError
from dynaface.services.edit_document import edit_document, undo
from dynaface.services.pieces import Piece
from dynaface.services.shot.evaluate_shot import evaluate_role
from dynaface.services.shot.make_shot import make_shot
from dynaface.services.take.import_take import import_character, import_take
from dynaface.services.take.open_take import open_take
from dynaface.services.take.snapshot import Wish
from tests.conftest import stored
from tests.services.evaluated import evaluated, put


@pytest.fixture
def take(mara, production):
    rig = stored(mara, (ASSETS / "characters/odile.glb").read_bytes(), "odile.glb")
    import_character(mara, production, "Odile", rig)
    rows = ["time,headTurnDeg,headSideMm,headRiseMm,headForwardMm,jawOpen"]
    rows += [
        f"{f / 60:.6f},{f / 10:.3f},{80 * np.sin(f / 20):.3f},0,{-40 * np.sin(f / 30):.3f},0.1" for f in range(120)
    ]
    return import_take(mara, production, "2C", "Mara Quill", [stored(mara, "\n".join(rows).encode(), "leaning.csv")])


def neck(head, motion):
    """(frames, 4) local turns of the top of the trunk."""
    return motion[:, head["joints"].index("spine5")] if "spine5" in head["joints"] else None


def test_a_table_brings_how_far_the_head_went(mara, take):
    head, arrays = evaluated(mara, take.id, ["raw"])
    assert {"headSide", "headRise", "headForward"} <= set(head["channels"])
    assert np.abs(arrays["raw"][:, head["channels"].index("headSide")]).max() == pytest.approx(80, abs=0.1)


def test_the_trunk_leans_by_as_much_as_is_asked_and_one_undo_ends_it(mara, take):
    join = open_take(mara, take.id).join
    assert neck(*_moved(mara, take.id)) is None
    edit_document(mara, join.id, join.version, "lean with the head", [put("lean", 1.0)])
    whole = neck(*_moved(mara, take.id))
    half = neck(*_moved(mara, take.id, Wish(join=[put("lean", 0.5)])))
    assert 0 < np.abs(half[:, :3]).max() < np.abs(whole[:, :3]).max()
    undo(mara, [join.id])
    assert neck(*_moved(mara, take.id)) is None
    with pytest.raises(InputError, match="lean"):
        edit_document(mara, join.id, open_take(mara, take.id).join.version, "too far", [put("lean", 2.0)])


def test_a_role_leans_and_the_weight_of_the_heads_travel_takes_it_back(mara, production, take):
    shot = make_shot(mara, production, "Gangway", takes=[take.id])
    role = shot.body.ordered[0]
    path = f"roles/{role}"
    straight = _played(mara, shot.id, role)
    assert neck(*straight) is None
    leaning = edit_document(mara, shot.id, shot.version, "lean", [put(f"{path}/lean", 1.0)])
    assert np.abs(neck(*_played(mara, shot.id, role))[:, :3]).max() > 0.01
    still = [put(f"{path}/capture/travel", {"value": 0.0})]
    edit_document(mara, shot.id, leaning.version, "capture of head travel", still)
    head, motion = _played(mara, shot.id, role)
    assert np.ptp(neck(head, motion), axis=0).max() < 1e-6
    turned = motion[:, head["joints"].index("head")] - straight[1][:, straight[0]["joints"].index("head")]
    assert np.abs(turned).max() < 1e-6


def test_a_capture_has_no_other_parts(mara, production, take):
    shot = make_shot(mara, production, "Gangway", takes=[take.id])
    with pytest.raises(InputError, match="a capture has no part 'walk'"):
        edit_document(
            mara, shot.id, shot.version, "x", [put(f"roles/{shot.body.ordered[0]}/capture/walk", {"value": 0.5})]
        )


def _moved(work, take, wish=None):
    head, arrays = evaluated(work, take, ["motion"], wish)
    return head, arrays["motion"]


def _played(work, shot, role):
    head, arrays = evaluate_role(work, shot, role, [Piece("motion")])
    head["joints"] = next(p["columns"] for p in head["pieces"] if p["part"] == "motion")
    return head, arrays["motion"].reshape(len(arrays["motion"]), -1, 4)
