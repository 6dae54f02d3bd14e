"""Snags of a role's result in a shot, mended in a layer, on the real database."""

import numpy as np
import pytest

from dynaface.assets import ASSETS
from dynaface.core.errors import InputError, NotFoundError
from dynaface.core.shapes.standard import HEAD_ANGLES
from dynaface.services.edit_document import edit_document, undo
from dynaface.services.pieces import Piece
from dynaface.services.shot.evaluate_shot import evaluate_role
from dynaface.services.shot.find_role_snags import LAYER, list_role_snags, mend_role
from dynaface.services.shot.make_shot import make_shot
from dynaface.services.shot.open_shot import open_shot
from dynaface.services.shot.preview_role import RoleTrial, preview_role
from dynaface.services.shot.snapshot import ShotWish
from dynaface.services.take.import_take import import_character, import_take
from tests.conftest import stored
from tests.services.evaluated import put


@pytest.fixture
def shot(mara, production):
    rig = stored(mara, (ASSETS / "characters/odile.glb").read_bytes(), "odile.glb")
    import_character(mara, production, "Odile", rig)
    files = [stored(mara, (ASSETS / "demo" / n).read_bytes(), n) for n in ("mara_second.csv", "mara_second.wav")]
    return make_shot(mara, production, "Landing", takes=[import_take(mara, production, "4B", "Mara Quill", files).id])


@pytest.fixture
def role(shot):
    return shot.body.ordered[0]


def snags(work, shot, role, kind=None):
    return [s for s in list_role_snags(work, shot.id, role)["snags"] if kind in (None, s["kind"])]


def head(work, shot, role, evaluate=evaluate_role, **more):
    """(frames, 3) angles of the head."""
    said, arrays = evaluate(work, shot.id, role, [Piece("tidied")], **more)
    return np.nan_to_num(arrays["tidied"][:, [said["channels"].index(c) for c in HEAD_ANGLES]])


def layers(work, shot):
    return [n for n in open_shot(work, shot.id).layers if not n.body.archived]


def test_what_is_wrong_in_the_result_is_found_worst_first(mara, shot, role):
    found = list_role_snags(mara, shot.id, role)
    severities = [s["severity"] for s in found["snags"]]
    assert severities == sorted(severities, reverse=True)
    assert {"jitter burst", "head pop"} <= {s["kind"] for s in found["snags"]}
    assert not found["silent"]
    assert "sound off" not in {k["name"] for k in found["kinds"]}
    assert all(not s["steps"] for s in found["snags"] if s["kind"] == "gap")


def test_a_mend_is_tried_then_lands_in_a_layer_on_top_and_takes_the_snag_away(mara, shot, role):
    pop = snags(mara, shot, role, "head pop")[0]
    before = head(mara, shot, role)
    tried = head(mara, shot, role, preview_role, wish=ShotWish(), trial=RoleTrial(mends=[pop["key"]]))
    assert layers(mara, shot) == []
    made = mend_role(mara, shot.id, role, [pop["key"]])
    assert [n.body.name for n in layers(mara, shot)] == [LAYER]
    assert head(mara, shot, role) == pytest.approx(tried, abs=1e-4)
    assert np.abs(head(mara, shot, role) - before).max() > 1
    assert pop["key"] not in {s["key"] for s in snags(mara, shot, role)}
    undo(mara, [made.id])
    assert np.array_equal(head(mara, shot, role), before)


def test_a_second_mend_goes_into_the_same_layer_and_leaves_the_first(mara, shot, role):
    first, second = snags(mara, shot, role, "head pop")[0], snags(mara, shot, role, "jitter burst")[0]
    mend_role(mara, shot.id, role, [first["key"]])
    once = head(mara, shot, role)
    tried = head(mara, shot, role, preview_role, wish=ShotWish(), trial=RoleTrial(mends=[second["key"]]))
    mend_role(mara, shot.id, role, [second["key"]])
    assert len(layers(mara, shot)) == 1
    assert head(mara, shot, role) == pytest.approx(tried, abs=1e-4)
    part = slice(first["first"], first["last"] + 1)
    assert head(mara, shot, role)[part] == pytest.approx(once[part], abs=0.05)


def test_a_layer_of_mends_that_is_locked_is_left_alone(mara, shot, role):
    first, second = snags(mara, shot, role, "head pop")[0], snags(mara, shot, role, "jitter burst")[0]
    made = mend_role(mara, shot.id, role, [first["key"]])
    edit_document(mara, made.id, made.version, "lock", [put("locked", True)])
    mend_role(mara, shot.id, role, [second["key"]])
    assert [n.body.name for n in layers(mara, shot)] == [LAYER, LAYER]


def test_what_is_let_be_is_listed_apart_and_what_is_gone_says_so(mara, shot, role):
    pop = snags(mara, shot, role, "head pop")[0]
    reason = {"reason": "meant", "kind": pop["kind"], "first": pop["first"], "last": pop["last"]}
    edit_document(mara, shot.id, shot.version, "let be", [put(f"roles/{role}/dismissed/{pop['key']}", reason)])
    found = list_role_snags(mara, shot.id, role)
    assert [s["key"] for s in found["dismissed"]] == [pop["key"]]
    assert pop["key"] not in {s["key"] for s in found["snags"]}
    with pytest.raises(NotFoundError, match="not there any more"):
        mend_role(mara, shot.id, role, ["nothing"])


def test_a_gap_is_mended_in_its_take(mara, production):
    lamp = stored(mara, (ASSETS / "demo/mara_lamp.csv").read_bytes(), "mara_lamp.csv")
    take = import_take(mara, production, "4A", "Mara Quill", [lamp])
    shot = make_shot(mara, production, "Gap", takes=[take.id])
    gap = snags(mara, shot, shot.body.ordered[0], "gap")[0]
    assert gap["steps"] == []
    with pytest.raises(InputError, match="there is no mend"):
        mend_role(mara, shot.id, shot.body.ordered[0], [gap["key"]])
