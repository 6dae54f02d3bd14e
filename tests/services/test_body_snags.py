"""Snags of bodies on the real database: listed, tried, mended, let be, taken back; steps of bodies in joins and shots."""

from dataclasses import replace

import numpy as np
import pytest

from dynaface.core.body.rotations import about, multiply
from dynaface.core.errors import DeniedError, InputError, NotFoundError
from dynaface.core.shapes.regions import FACE
from dynaface.formats.entries import bvh
from dynaface.formats.entries.curve_table import write_table
from dynaface.services.edit_document import undo
from dynaface.services.footage.solve_take import CONFIDENCE
from dynaface.services.pieces import Piece
from dynaface.services.shot.evaluate_shot import prepare_role
from dynaface.services.shot.make_shot import make_shot
from dynaface.services.take.find_body_snags import list_body_snags, mend_body
from dynaface.services.take.import_take import import_take
from dynaface.services.take.open_take import open_take
from dynaface.services.take.prepare_take import prepare_take
from dynaface.services.take.preview_take import Trial, preview_take
from dynaface.services.take.snapshot import Wish
from dynaface.sims.walk import spoilt, walk
from tests.conftest import stored
from tests.core.snags_body.test_mouth_covered import SHORT
from tests.makers import channels
from tests.services.evaluated import put
from tests.services.test_bodies_of_shots import take_with_body
from tests.services.test_matches import odile, say

__all__ = ["odile"]


def broken() -> bytes:
    """A walk that lost a leg for a third of a second, and whose hand jumps."""
    motion = spoilt(walk(60, 4).motion, 0.02, 0.0002, 0.0, 5)
    names, local = motion.skeleton.names, motion.local.copy()
    local[100:120, names.index("UpLeg_L")] = local[99, names.index("UpLeg_L")]
    hand = names.index("Hand_R")
    local[200:201, hand] = multiply(about("z", 50.0), local[200:201, hand])
    return bvh.write(replace(motion, local=local))


@pytest.fixture
def take(mara, production, odile):
    made = take_with_body(mara, production, broken())
    say(mara, made, put("feet", True))
    return made


def snags(work, take):
    return list_body_snags(work, take.id)["snags"]


def of(work, take, kind):
    return [s for s in snags(work, take) if s["kind"] == kind]


def root_and_joints(work, take):
    made = prepare_take(work, take.id).performance
    return made.root, made.local


def test_they_are_listed_worst_first_in_frames_of_the_take(mara, take):
    found = snags(mara, take)
    assert [s["severity"] for s in found] == sorted((s["severity"] for s in found), reverse=True)
    (lost,) = of(mara, take, "joints lost")
    assert lost["region"] == "legLeft"
    assert abs(lost["first"] - 100) <= 1
    assert abs(lost["last"] - 119) <= 1
    assert of(mara, take, "body spike")[0]["first"] in range(197, 202)


def test_a_mend_is_tried_accepted_and_taken_back(mara, take):
    (lost,) = of(mara, take, "joints lost")
    before = root_and_joints(mara, take)
    pieces = [Piece("motion")]
    _, tried = preview_take(mara, take.id, pieces, Wish(), Trial(body_mends=[lost["key"]]))
    assert np.array_equal(root_and_joints(mara, take)[1], before[1])
    join = open_take(mara, take.id).join
    mended = mend_body(mara, take.id, join.version, [lost["key"]])
    (step,) = mended.body.tidy.values()
    assert (step.step, step.groups) == ("fill gaps", ["legLeft"])
    after = root_and_joints(mara, take)
    assert not np.array_equal(after[1], before[1])
    np.testing.assert_array_equal(tried["motion"].reshape(after[1].shape), after[1])
    assert of(mara, take, "joints lost") == []
    undo(mara, [join.id])
    assert np.array_equal(root_and_joints(mara, take)[1], before[1])


def test_several_are_one_change_and_settings_are_mends_too(mara, take):
    say(mara, take, put("feet", False), put("nudge", 0.0))
    slides = [s for s in snags(mara, take) if {"put": "feet", "value": True} in s["steps"]]
    lost = of(mara, take, "joints lost")
    join = open_take(mara, take.id).join
    keys = [s["key"] for s in (*lost, *slides)]
    mended = mend_body(mara, take.id, join.version, keys)
    assert mended.version == join.version + 1
    assert len(mended.body.tidy) == 1
    assert mended.body.feet == bool(slides)


def test_one_that_is_let_be_stays_so(mara, take):
    (lost,) = of(mara, take, "joints lost")
    dismissal = {"kind": lost["kind"], "reason": "meant", "first": lost["first"], "last": lost["last"]}
    say(mara, take, put(f"dismissed/{lost['key']}", dismissal))
    found = list_body_snags(mara, take.id)
    assert of(mara, take, "joints lost") == []
    assert [d["reason"] for d in found["dismissed"]] == ["meant"]


def test_what_is_wrong_is_said_and_nothing_is_changed(mara, stranger, take):
    join = open_take(mara, take.id).join
    with pytest.raises(NotFoundError, match="not there any more"):
        mend_body(mara, take.id, join.version, ["no such snag"])
    with pytest.raises((DeniedError, NotFoundError)):
        list_body_snags(stranger, take.id)
    for wrong in ({"step": "no such", "rank": 1.0}, {"step": "smooth", "rank": 1.0, "amount": 7}, {"step": "smooth", "rank": 1.0, "groups": ["tail"]}):  # fmt: skip
        with pytest.raises(InputError):
            say(mara, take, put("tidy/x", wrong))
    assert open_take(mara, take.id).join.version == join.version


def test_steps_run_in_the_order_of_their_ranks(mara, take):
    say(mara, take, put("tidy/a", {"step": "smooth", "rank": 2.0}), put("tidy/b", {"step": "fill gaps", "rank": 1.0}))
    assert [s.step.name for s in prepare_take(mara, take.id).snapshot.join.tidy] == ["fill gaps", "smooth"]


def test_a_shot_shows_the_body_as_it_is_tidied(mara, take):
    shot = make_shot(mara, take.production, "Jetty", takes=[take.id])
    say(mara, take, put("tidy/a", {"step": "smooth", "rank": 1.0, "amount": 0.8}))
    made = prepare_role(mara, shot.id, shot.body.ordered[0]).performance
    alone = prepare_take(mara, take.id).performance
    np.testing.assert_array_equal(made.root, alone.root)
    np.testing.assert_array_equal(made.local, alone.local)


def test_a_take_without_a_body_has_none(mara, production, odile):
    bare = import_take(mara, production, "5", "Mara Quill", [stored(mara, write_table(channels(frames=60)), "face.csv")])  # fmt: skip
    assert snags(mara, bare) == []


class TestAHandBeforeTheMouth:
    """The take of a webcam whose solve was not sure of the lips while the suit's hand was near them."""

    @pytest.fixture
    def take(self, mara, production, odile):
        made = take_with_body(mara, production, bvh.write(replace(SHORT, timecode=None)))
        sure = np.full((300, len(FACE)), 0.9, np.float32)
        sure[300 - 60 : 300 - 6, FACE.index("lips")] = 0.2
        with mara.store.unit() as unit:
            unit.sources.write_block(made.body.sources.curves, CONFIDENCE, sure)
        # The body was at the chin from its fifth second on: what the camera saw from its fourth.
        say(mara, made, put("nudge", -60.0))
        return made

    def of(self, work, take):
        return [s for s in snags(work, take) if s["kind"] == "hand before the mouth"]

    def test_it_is_proposed_as_a_touch_that_brings_the_hand_to_the_face(self, mara, take):
        (found,) = self.of(mara, take)
        assert found["region"] == "handRight"
        before = root_and_joints(mara, take)[1]
        join = open_take(mara, take.id).join
        mended = mend_body(mara, take.id, join.version, [found["key"]])
        (contact,) = mended.body.contacts.values()
        assert (contact.side, mended.body.touch) == ("RightHand", True)
        assert np.abs(root_and_joints(mara, take)[1] - before).max() > 0.02
        assert self.of(mara, take) == []
        undo(mara, [join.id])
        np.testing.assert_array_equal(root_and_joints(mara, take)[1], before)
        assert len(self.of(mara, take)) == 1
