"""Hands of another take, and one of several performers of a file, on the real database."""

from dataclasses import replace
from fractions import Fraction

import numpy as np
import pytest

from dynaface.core.body.rotations import about, multiply
from dynaface.core.body.skeleton import Motion
from dynaface.core.errors import DeniedError, InputError, NotFoundError
from dynaface.formats.entries import bvh
from dynaface.services.edit_document import undo
from dynaface.services.load_source import load_motion
from dynaface.services.match.keep_match import export_match, import_match, keep_match
from dynaface.services.match.report_match import hands_report, match_report
from dynaface.services.take.import_take import attach_source, import_take, list_bodies
from dynaface.services.take.open_take import list_takes, open_take
from dynaface.services.take.prepare_take import prepare_take
from dynaface.sims.skeletons import BUILDS, make
from tests.conftest import stored
from tests.formats.test_bodies import SHORT, gltf
from tests.makers import table
from tests.services.evaluated import put
from tests.services.test_matches import BODY, OF, odile, say, take, take_in

__all__ = ["odile", "take"]
GLOVES = make(next(b for b in BUILDS if b.make == "misleading fingers"), 21)


def gloves(curl: float = 50.0) -> bytes:
    """A take of hands with misleading names in which the left middle finger curls."""
    bones = GLOVES.skeleton
    local = bones.rest[None].repeat(300, axis=0)
    joint = GLOVES.truth.index("L finger 3 1")
    local[:, joint] = multiply(about("z", -curl), local[:, joint])
    return bvh.write(Motion(bones, local, np.zeros((300, 3)), Fraction(60)))


def local_of(work, take, joint):
    prepared = prepare_take(work, take.id)
    made = prepared.performance
    return made.local[:, made.joints.index(joint)]


def bring(work, take, data, name, **more):
    return attach_source(work, take.id, {**stored(work, data, name), **more})


def test_a_hand_take_moves_the_fingers_and_can_be_taken_back(mara, take):
    before = {j: local_of(mara, take, j) for j in ("middle1Left", "index1Left", "handLeft")}
    brought = bring(mara, take, gloves(), "gloves.bvh", part="hands")
    assert brought.body.sources.hands
    after = {j: local_of(mara, take, j) for j in before}
    assert np.abs(after["middle1Left"] - before["middle1Left"]).max() > 0.2
    np.testing.assert_allclose(after["handLeft"], before["handLeft"], atol=1e-6)
    say(mara, take, put("hands", "right"))
    np.testing.assert_allclose(local_of(mara, take, "middle1Left"), before["middle1Left"], atol=1e-6)
    undo(mara, [open_take(mara, take.id).join.id])
    np.testing.assert_allclose(local_of(mara, take, "middle1Left"), after["middle1Left"], atol=1e-6)
    undo(mara, [take.id])
    np.testing.assert_allclose(local_of(mara, take, "middle1Left"), before["middle1Left"], atol=1e-6)


def test_misleading_names_of_fingers_are_seen_through(mara, take):
    bring(mara, take, gloves(), "gloves.bvh", part="hands")
    found = hands_report(mara, take.id)
    truth = dict(zip(GLOVES.skeleton.names, GLOVES.truth, strict=True))
    assert truth[found["matches"]["index1Left"]] == "L finger 2 1"
    assert "Middle" in found["matches"]["index1Left"]
    assert truth[found["matches"]["thumb1Right"]] == "R finger 1 1"
    say(mara, take, put("handsMatches/index1Left", ""))
    assert hands_report(mara, take.id)["own"] == ["index1Left"]
    assert "index1Left" not in hands_report(mara, take.id)["matches"]


def test_a_match_of_hands_is_kept_with_its_turns_and_found_by_the_gloves(mara, production, take):
    bring(mara, take, gloves(), "gloves.bvh", part="hands")
    straight = local_of(mara, take, "ring1Left")
    say(mara, take, put("handsMatches/index1Left", ""), put("handsTurns/ring1Left", [0, 0, 12.0]))
    turned = local_of(mara, take, "ring1Left")
    assert np.abs(turned - straight).max() > 0.05
    kept = keep_match(mara, take.id, "gloves on Odile", "hands")
    own = open_take(mara, take.id).join.body
    assert (own.hands_matches, own.hands_turns) == ({}, {})
    np.testing.assert_array_equal(local_of(mara, take, "ring1Left"), turned)
    found = hands_report(mara, take.id)
    assert (found["kept"]["id"], found["said"], found["turns"]) == (kept.id, 0, {"ring1Left": [0.0, 0.0, 12.0]})
    assert match_report(mara, take.id)["kept"] is None
    other = take_in(mara, production, "4B")
    bring(mara, other, gloves(20.0), "again.bvh", part="hands")
    assert "index1Left" not in hands_report(mara, other.id)["matches"]
    np.testing.assert_allclose(local_of(mara, other, "ring1Left"), turned, atol=1e-6)


def test_a_match_of_hands_goes_to_a_file_and_back(mara, take):
    bring(mara, take, gloves(), "gloves.bvh", part="hands")
    say(mara, take, put("handsMatches/index1Left", ""), put("handsTurns/ring1Left", [0, 0, 12.0]))
    before = hands_report(mara, take.id)
    name, data = export_match(mara, take.id, "hands")
    say(mara, take, put("handsMatches", {}), put("handsTurns", {}))
    import_match(mara, take.id, stored(mara, data, name), "hands")
    after = hands_report(mara, take.id)
    assert (after["matches"], after["turns"]) == (before["matches"], before["turns"])
    assert match_report(mara, take.id)["said"] == 0
    bad = stored(mara, b'{"matches": {"index1Left": "tail"}}', "hands.json")
    with pytest.raises(InputError, match=r"hands\.json: the skeleton has no joint"):
        import_match(mara, take.id, bad, "hands")


def test_one_of_several_performers_is_chosen(mara, take):
    other = replace(
        SHORT,
        root=SHORT.root + [3.0, 0, 0],
        skeleton=replace(SHORT.skeleton, names=tuple(f"b_{n}" for n in SHORT.skeleton.names)),
    )
    data = gltf([SHORT, other])
    found = list_bodies(mara, take.production, stored(mara, data, "both.glb"))
    assert [(f["name"], f["frames"], f["fingers"]) for f in found] == [("rig 1", 90, 30), (found[1]["name"], 90, 30)]
    bring(mara, take, data, "both.glb", part="body", which=1)
    prepared = prepare_take(mara, take.id)
    assert "b_Hips" in prepared.snapshot.body.skeleton.names
    assert prepared.snapshot.documents.sources["body"].info["which"] == 1
    with pytest.raises(InputError, match="has 2 performers, no number 3"):
        bring(mara, take, data, "both.glb", part="body", which=2)


def test_what_has_no_fingers_is_no_take_of_hands(mara, take):
    bare = make(next(b for b in BUILDS if b.make == "bare"), 3).skeleton
    still = bvh.write(Motion(bare, bare.rest[None].repeat(3, axis=0), np.zeros((3, 3)), Fraction(60)))
    before = open_take(mara, take.id).take.version
    with pytest.raises(InputError, match="no fingers are found"):
        bring(mara, take, still, "bare.bvh", part="hands")
    with pytest.raises(InputError, match=r"table\.csv"):
        bring(mara, take, b"time,jawOpen\n0,0\n1,1\n", "table.csv", part="body")
    assert open_take(mara, take.id).take.version == before


def test_without_hands_there_is_no_report_of_them(mara, take, stranger):
    with pytest.raises(InputError, match="no hands of their own"):
        hands_report(mara, take.id)
    with pytest.raises((DeniedError, NotFoundError)):
        list_bodies(stranger, take.production, {"media": "0" * 64, "name": "a.bvh"})
    assert OF["L hand"] in BODY.skeleton.names


class TestBodiesOfNewTakes:
    """A take that is made of its files has the body of a glTF from the beginning."""

    def performers(self):
        names = tuple(f"b_{n}" for n in SHORT.skeleton.names)
        other = replace(SHORT, skeleton=replace(SHORT.skeleton, names=names), root=SHORT.root + [1.0, 0, 0])
        return gltf([SHORT, other])

    @pytest.mark.parametrize("which", [0, 1])
    def test_one_of_the_performers_of_a_gltf_is_the_body(self, mara, production, which):
        file = {**stored(mara, self.performers(), "both.glb"), "part": "body", "which": which}
        made = import_take(mara, production, "4A", "Mara Quill", [stored(mara, table(), "face.csv"), file])
        with mara.store.unit() as unit:
            body = unit.sources.get(made.body.sources.body)
        assert (body.kind, body.info["which"], body.info["frames"]) == ("body", which, SHORT.frames)
        assert ("b_" if which else "") + SHORT.skeleton.names[0] in load_motion(mara, body).skeleton.names

    def test_without_that_a_gltf_is_a_character_and_no_part_of_a_take(self, mara, production):
        with pytest.raises(InputError, match="not part of a take"):
            import_take(mara, production, "4A", "", [stored(mara, self.performers(), "both.glb")])

    def test_a_body_twice_or_one_that_is_not_there_leaves_nothing_behind(self, mara, production):
        file = {**stored(mara, self.performers(), "both.glb"), "part": "body"}
        walk = stored(mara, bvh.write(SHORT), "walk.bvh")
        with pytest.raises(InputError, match="of one kind"):
            import_take(mara, production, "4A", "", [file, walk])
        with pytest.raises(InputError, match="no number 6"):
            import_take(
                mara, production, "4A", "", [walk | {"name": "other.bvh"}, {**file, "which": 5, "part": "hands"}]
            )
        assert list_takes(mara, production) == []
