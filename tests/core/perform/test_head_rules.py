"""Which joints carry the head's turn, how they share it, and what the camera of the face take stood still against."""

from dataclasses import replace
from fractions import Fraction

import numpy as np
import pytest
from numpy.testing import assert_allclose

from dynaface.core.body.rotations import about, inverse, multiply
from dynaface.core.body.skeleton import Motion
from dynaface.core.cast.sheet import CastSheet
from dynaface.core.curves.channels import Channels
from dynaface.core.errors import InputError
from dynaface.core.head.neck import chain_from, head_chain, measured_shares
from dynaface.core.layers.weight import Weight
from dynaface.core.perform.join_settings import JoinSettings, parse_join
from dynaface.core.perform.perform import perform_take
from dynaface.sims.skeletons import BUILDS, make
from tests.makers import character

RIG = make(next(b for b in BUILDS if b.make == "another language"), 31)
NAMED = tuple("head" if t == "head" else ("neck" + t[5:] if t.startswith("neck") else n) for n, t in zip(RIG.skeleton.names, RIG.truth, strict=True))  # fmt: skip
BONES = replace(RIG.skeleton, names=NAMED)
FRAMES = 120
TIMES = np.arange(FRAMES) / 60


def face(turn) -> Channels:
    values = np.broadcast_to(np.asarray(turn, np.float32), (FRAMES,))[:, None].astype(np.float32)
    return Channels(("headTurn",), values, Fraction(60))


def body(chest=0.0, head=0.0, hips=0.0) -> Motion:
    """A body whose hips, chest and head turn about up, each by degrees (frames,) of its own."""
    local = np.tile(BONES.rest, (FRAMES, 1, 1))
    for joint, turn in ((0, hips), (below(), chest), (head_chain(BONES)[-1], head)):
        local[:, joint] = multiply(about("y", np.broadcast_to(turn, (FRAMES,))), local[:, joint])
    return Motion(BONES, local, np.zeros((FRAMES, 3)), Fraction(60))


def below() -> int:
    return BONES.parents[head_chain(BONES)[0]]


def shown(turn, moving, **settings):
    """(frames, joints, 4) world turns from rest of the character."""
    who = replace(character(), skeleton=BONES)
    made = perform_take(face(turn), who, CastSheet(), moving, JoinSettings(**settings))
    local = np.tile(BONES.rest, (FRAMES, 1, 1)).astype(np.float64)
    for number, joint in enumerate(made.joints):
        local[:, BONES.index(joint)] = made.local[:, number]
    turns, _ = BONES.pose(local, np.zeros((FRAMES, 3)))
    return multiply(turns, inverse(BONES.global_rest()[0])[None])


def yaw(turns, joint):
    way = 2 * turns[:, joint, 1] * turns[:, joint, 3]
    return np.degrees(np.arcsin(np.clip(way, -1, 1)))


class TestWhere:
    def test_the_chain_begins_where_it_is_asked_to_if_that_carries_the_head(self):
        chain = head_chain(BONES)
        assert chain_from(BONES, "") == chain
        assert chain_from(BONES, BONES.names[below()]) == [below(), *chain]
        leg = next(n for n, t in zip(NAMED, RIG.truth, strict=True) if t == "L foot")
        assert chain_from(BONES, leg) == chain
        assert chain_from(BONES, "no such joint") == chain

    def test_from_lower_down_the_head_still_looks_where_it_is_to(self):
        for start in ("", BONES.names[below()]):
            assert_allclose(yaw(shown(20.0, body(), head_from=start), head_chain(BONES)[-1]), 20, atol=0.01)
        lower = yaw(shown(20.0, body(), head_from=BONES.names[below()]), below())
        assert_allclose(lower, 20 / (1 + len(head_chain(BONES))), atol=0.01)

    def test_what_the_body_bends_lower_down_is_kept(self):
        start = BONES.names[below()]
        made = shown(0.0, body(chest=15.0, head=-15.0), head_from=start)
        assert_allclose(yaw(made, below()), 15, atol=0.5)
        assert_allclose(yaw(made, head_chain(BONES)[-1]), 0, atol=0.01)


class TestSharing:
    def test_shares_that_are_set_are_kept(self):
        chain = head_chain(BONES)
        shares = {BONES.names[j]: 0.0 for j in chain[:-1]} | {BONES.names[chain[-1]]: 1.0}
        made = shown(24.0, body(), spread="set", head_shares=shares)
        assert_allclose(yaw(made, chain[0]), 0, atol=0.01)
        assert_allclose(yaw(made, chain[-1]), 24, atol=0.01)

    def test_measured_they_are_as_the_body_turns_its_joints(self):
        local = np.tile([0.0, 0, 0, 1.0], (FRAMES, 2, 1))
        local[:, 0] = about("y", 10 * np.sin(6 * TIMES))
        local[:, 1] = about("y", 30 * np.sin(6 * TIMES))
        one, other = measured_shares(local)
        assert other / one == pytest.approx(3, rel=0.02)
        assert_allclose(measured_shares(np.tile([0.0, 0, 0, 1.0], (5, 3, 1))), 1)
        assert_allclose(measured_shares(np.zeros((0, 2, 4))), 1)

    def test_a_body_that_turns_its_head_joint_alone_has_the_face_turn_that(self):
        chain = head_chain(BONES)
        made = shown(20.0, body(head=15 * np.sin(6 * TIMES)), spread="measured")
        assert np.abs(yaw(made, chain[0])).max() < 1
        assert_allclose(yaw(made, chain[-1]), 20, atol=0.01)

    @pytest.mark.parametrize("weight", [0.0, 0.4, 1.0])
    def test_the_weight_goes_from_the_bodys_head_to_the_faces(self, weight):
        made = shown(30.0, body(head=10.0), spread="measured", head_weight=Weight(weight))
        assert_allclose(yaw(made, head_chain(BONES)[-1]), 10 + 20 * weight, atol=0.2)


class TestFilmed:
    def test_against_the_chest_the_head_turns_with_it(self):
        assert_allclose(yaw(shown(10.0, body(hips=25.0)), head_chain(BONES)[-1]), 35, atol=0.01)

    def test_by_a_camera_that_stood_still_the_turn_of_the_body_is_not_added(self):
        # The head is seen to turn by what hips and neck do together; the camera stands 40 degrees aside.
        hips, neck = 12 * np.sin(4 * TIMES), 9 * np.sin(7 * TIMES)
        moving = body(hips=hips + 20.0, head=neck)
        made = shown(hips + neck - 20.0, moving, filmed="fixed")
        assert_allclose(yaw(made, head_chain(BONES)[-1]), hips + neck + 20, atol=0.05)
        doubled = shown(hips + neck, moving)
        assert np.ptp(yaw(doubled, head_chain(BONES)[-1])) > 1.3 * np.ptp(hips + neck)

    def test_on_the_head_it_saw_no_turn_and_the_body_moves_the_head(self):
        made = shown(40.0, body(head=10.0), filmed="head")
        assert_allclose(yaw(made, head_chain(BONES)[-1]), 10, atol=0.01)

    def test_without_a_body_nothing_is_taken_off(self):
        assert_allclose(yaw(shown(15.0, None, filmed="fixed"), head_chain(BONES)[-1]), 15, atol=0.01)


class TestSettings:
    def test_they_are_read(self):
        made = parse_join({"headFrom": "spine3", "spread": "set", "headShares": {"neck": 2}, "filmed": "fixed"})
        assert (made.head_from, made.spread, made.head_shares, made.filmed) == ("spine3", "set", {"neck": 2.0}, "fixed")

    @pytest.mark.parametrize("given", [{"headFrom": 3}, {"spread": "odd"}, {"headShares": [1]}, {"headShares": {"a": -1}}, {"filmed": "moon"}])  # fmt: skip
    def test_what_is_wrong_is_said(self, given):
        with pytest.raises(InputError):
            parse_join(given)
