"""Props in hands: taken, carried, passed on, let go; hands that come to props that move by themselves."""

from dataclasses import replace
from fractions import Fraction

import numpy as np
import pytest

from dynaface.assets import ASSETS
from dynaface.core.body.rotations import about, inverse, multiply, rotate
from dynaface.core.body.skeleton import Skeleton
from dynaface.core.cast.sheet import CastSheet
from dynaface.core.contact.hands import hands_of
from dynaface.core.curves.channels import Channels
from dynaface.core.perform.held_props import Standing, hold_props, holder_of, with_arms
from dynaface.core.perform.join_settings import JoinSettings
from dynaface.core.perform.perform import perform_take
from dynaface.core.prop.carry import carry
from dynaface.core.prop.find_holds import find_holds
from dynaface.core.prop.grasp import grasp_of
from dynaface.core.prop.holder import Holder
from dynaface.core.prop.prop import Hold, PlacedProp, PropMotion, PropShape, PropWay, own_way
from dynaface.core.shapes.standard import HEAD_ANGLES
from dynaface.formats.character_file import open_character
from dynaface.formats.gltf.prop import read_prop
from dynaface.sims.body_suit import move

RATE, FRAMES = Fraction(60), 360
RIGS = {n: open_character((ASSETS / f"characters/{n}.glb").read_bytes())[0] for n in ("odile", "brindle")}
LANTERN = read_prop((ASSETS / "props/lantern.glb").read_bytes())
FACE = Channels(HEAD_ANGLES, np.zeros((FRAMES, len(HEAD_ANGLES)), np.float32), RATE)
PLAYED = {
    name: perform_take(FACE, rig, CastSheet(), move(FRAMES / 60, None, seed, steps=0), JoinSettings())
    for seed, (name, rig) in enumerate(RIGS.items(), 3)
}
BESIDE = Standing((-0.3, 0.0, 0.32), 180.0)  # where her right hand can reach his left one
STILL = PropShape(LANTERN.points, None)


def holders(*names, where=BESIDE):
    """Fresh holders, Odile in the middle, the other beside her."""
    return {n: holder_of(PLAYED[n], RIGS[n], Standing() if n == "odile" else where) for n in names}


def placed(*holds, **more):
    return PlacedProp(holds={f"h{n}": Hold(*h) for n, h in enumerate(holds)}, **more)


def swinging(frames=FRAMES):
    """A prop that swings to and fro, half a metre before Odile's belly."""
    t = np.arange(frames) / 60
    turns = about("y", 30 * np.sin(t))
    shifts = np.stack([0.1 + 0.08 * np.sin(1.5 * t), 1.15 + 0.05 * np.sin(2 * t), np.full(frames, 0.3)], axis=1)
    return PropShape(LANTERN.points, PropMotion(turns, shifts, RATE))


def bent(holder):
    """Joints of arms that were bent."""
    arms = {joint for hand in holder.hands.values() for joint in hand.bones}
    return arms & set(holder.arms)


def fastest(values):
    return np.abs(np.diff(values, axis=0)).max()


class TestWhoHoldsIt:
    def test_nobody_it_stands_where_it_was_put(self):
        made = carry(placed(at=(1.0, 0.2, -0.5), turn=90.0), STILL, holders("odile"), FRAMES, RATE)
        assert np.allclose(made.way.at, [1.0, 0.2, -0.5])
        assert np.allclose(rotate(made.way.turns, np.array([[0.0, 0.0, 1.0]])), [1.0, 0.0, 0.0])

    def test_one_that_is_in_the_hand_goes_with_it_and_leaves_the_arm_as_it_was(self):
        who = holders("odile")
        made = carry(placed(("odile", "Right", 0, FRAMES - 1)), STILL, who, FRAMES, RATE)
        palm, turns = who["odile"].palm("Right")
        assert np.abs(made.way.at - palm).max() < 1e-12
        since = multiply(turns, inverse(turns[0]))
        assert np.abs(np.abs((made.way.turns * since).sum(axis=1)) - 1).max() < 1e-6
        assert bent(who["odile"]) == set()
        assert made.short["h0"] < 1e-9

    def test_where_it_lies_in_the_palm_is_said_in_its_own_space_whatever_its_size(self):
        grip = (0.0, -0.2, 0.05)
        who = holders("odile")
        made = carry(placed(("odile", "Left", 30, 200, grip), size=1.5), STILL, who, FRAMES, RATE)
        palm, _ = who["odile"].palm("Left")
        held = made.way.place(np.asarray(grip) * 1.5)
        assert np.abs(held - palm)[30:201].max() < 1e-6

    def test_before_it_is_taken_and_after_it_is_let_go_it_stays(self):
        made = carry(placed(("odile", "Right", 60, 200)), STILL, holders("odile"), FRAMES, RATE)
        for rows in (slice(0, 61), slice(200, None)):
            assert fastest(made.way.at[rows]) == 0
            assert fastest(made.way.turns[rows]) < 1e-12

    def test_what_hangs_stays_upright_and_turns_with_the_hand(self):
        made = carry(placed(("odile", "Right", 0, 300), hangs=True, turn=20.0), STILL, holders("odile"), FRAMES, RATE)
        up = rotate(made.way.turns, np.broadcast_to([0.0, 1.0, 0.0], (FRAMES, 3)))
        assert np.abs(up - [0, 1, 0]).max() < 1e-9
        assert fastest(made.way.turns[:301]) > 0

    def test_a_hand_that_is_not_there_holds_nothing_and_is_said(self):
        armless = Skeleton(
            ("hips", "spine"), (-1, 0), np.array([[0, 1.0, 0], [0, 0.3, 0]]), np.tile([0, 0, 0, 1.0], (2, 1))
        )
        who = {"odile": Holder(armless, np.tile(armless.rest, (FRAMES, 1, 1)), np.zeros((FRAMES, 3)))}
        for holds in (who, {}):
            made = carry(placed(("odile", "Right", 0, 9)), STILL, holds, FRAMES, RATE)
            assert np.isnan(made.short["h0"])
            assert fastest(made.way.at) == 0

    def test_a_hold_beyond_the_shot_is_cut_to_it(self):
        made = carry(
            placed(("odile", "Right", 300, 9000), ("odile", "Right", 9100, 9200)), STILL, holders("odile"), FRAMES, RATE
        )
        assert made.short["h0"] < 1e-9
        assert np.isnan(made.short["h1"])


class TestClosing:
    @pytest.mark.parametrize("name", RIGS)
    @pytest.mark.parametrize("side", ["Left", "Right"])
    def test_fingertips_come_about_what_lies_in_the_hand(self, name, side):
        open_hand, who = holders("odile", "brindle")[name], holders("odile", "brindle")[name]
        who.close(side, np.ones(FRAMES))
        far = {}
        for key, holder in (("open", open_hand), ("closed", who)):
            rotations, positions = holder.pose()
            place, _ = holder.palm(side)
            hand = holder.hands[side]
            tips = [hand.place(f"finger{n}", rotations, positions) for n in (2, 3, 4, 5)]
            far[key] = np.mean([np.linalg.norm(t - place, axis=1).mean() for t in tips]) / hand.size
        assert far["closed"] < 0.07
        assert far["closed"] < 0.7 * far["open"]

    def test_they_close_on_the_way_there_and_open_again(self):
        who = holders("odile")
        carry(placed(("odile", "Right", 120, 200)), STILL, who, FRAMES, RATE)
        free = holders("odile")["odile"]
        for joint in who["odile"].grasps["Right"].fist:
            moved = np.abs(who["odile"].arms[joint] - free.local[:, joint]).max(axis=1)
            assert moved[:100].max() < 1e-6
            assert moved[225:].max() < 1e-6
            assert moved[120:201].min() > 1e-3

    def test_they_stay_as_they_are_where_that_is_asked(self):
        who = holders("odile")
        carry(placed(("odile", "Right", 0, 300, (0.0, 0.0, 0.0), 0.0)), STILL, who, FRAMES, RATE)
        assert who["odile"].arms == {}

    def test_a_hand_without_fingers_holds_in_its_palm_and_stays_as_it_is(self):
        rig = RIGS["odile"].skeleton
        fingers = {
            j
            for j in range(len(rig.names))
            if any(rig.carries(h.bones.end, j) and j != h.bones.end for h in hands_of(rig).values())
        }
        kept = [j for j in range(len(rig.names)) if j not in fingers]
        place = {j: n for n, j in enumerate(kept)}
        bare = Skeleton(
            tuple(rig.names[j] for j in kept),
            tuple(place.get(rig.parents[j], -1) for j in kept),
            rig.offsets[kept],
            rig.rest[kept],
        )
        for hand in hands_of(bare).values():
            grasp = grasp_of(bare, hand)
            assert grasp.fist == {}
            assert np.array_equal(grasp.place, hand.places["palm"][1])


class TestTaking:
    SHELF = (-0.25, 1.15, 0.35)

    def test_the_hand_comes_to_where_it_stands_and_takes_it_along(self):
        who = holders("odile")
        made = carry(placed(("odile", "Right", 120, 300), at=self.SHELF, in_hand=False), STILL, who, FRAMES, RATE)
        palm, _ = who["odile"].palm("Right")
        assert np.allclose(made.way.at[:121], self.SHELF, atol=2e-3)
        assert np.abs(made.way.at - palm)[120:301].max() < 2e-3
        free, _ = holders("odile")["odile"].palm("Right")
        assert np.abs(palm - free)[:80].max() == 0  # before the lead it is as it was
        assert np.abs(palm - free)[160:].max() < 1e-6  # and after it again
        assert np.abs(palm - free)[120].max() > 0.05

    def test_nothing_jumps_where_it_is_taken(self):
        who = holders("odile")
        made = carry(placed(("odile", "Right", 120, 300), at=self.SHELF, in_hand=False), STILL, who, FRAMES, RATE)
        assert fastest(made.way.at) < 0.06

    def test_one_that_is_too_far_comes_to_the_hand_slowly_and_it_is_said_by_how_much(self):
        who = holders("odile")
        made = carry(placed(("odile", "Right", 120, 300), at=(-1.4, 1.0, 0.3), in_hand=False), STILL, who, FRAMES, RATE)
        palm, _ = who["odile"].palm("Right")
        assert made.short["h0"] > 0.4
        assert np.abs(made.way.at - palm)[140:301].max() < 1e-9
        assert fastest(made.way.at) < 0.2


class TestPassing:
    def passed(self, first=150, over=30, **more):
        who = holders("odile", "brindle")
        prop = placed(
            ("odile", "Right", 0, first + over),
            ("brindle", "Left", first, FRAMES - 1, (0.0, -0.25, 0.0)),
            hangs=True,
            **more,
        )
        return carry(prop, STILL, who, FRAMES, RATE), who

    def test_both_hands_are_on_it_meanwhile(self):
        made, who = self.passed()
        gives, _ = who["odile"].palm("Right")
        takes, _ = who["brindle"].palm("Left")
        assert np.abs(made.way.at - gives)[150:181].max() < 1e-9
        short = np.linalg.norm(made.way.place(np.array([0.0, -0.25, 0.0])) - takes, axis=1)
        assert short[150:].max() < 0.01
        assert made.short["h1"] == pytest.approx(short[150:].max())

    def test_who_gives_goes_on_as_captured(self):
        _, who = self.passed()
        assert bent(who["odile"]) == set()
        assert bent(who["brindle"]) == set(who["brindle"].hands["Left"].bones)

    def test_it_does_not_jump_when_it_changes_hands(self):
        made, _ = self.passed()
        alone, _ = holders("odile", "brindle")["brindle"].palm("Left")
        quick = max(fastest(alone), 0.06)
        assert fastest(made.way.at) < quick
        assert fastest(made.way.turns) < 0.1

    def test_a_hand_that_is_on_it_only_while_another_leads_never_leads(self):
        who = holders("odile", "brindle")
        prop = placed(("odile", "Right", 0, 300), ("brindle", "Left", 150, 200))
        made = carry(prop, STILL, who, FRAMES, RATE)
        palm, _ = who["odile"].palm("Right")
        assert np.abs(made.way.at - palm)[:301].max() < 1e-9

    def test_both_hands_of_one_role_carry_it_together(self):
        who = holders("odile")
        apart = (0.45, 0.0, 0.0)
        holds = ("odile", "Right", 130, 220), ("odile", "Left", 150, 220, apart)
        made = carry(placed(*holds, hangs=True), STILL, who, FRAMES, RATE)
        left, _ = who["odile"].palm("Left")
        assert np.linalg.norm(made.way.place(np.asarray(apart)) - left, axis=1)[150:221].max() < 2e-3


class TestMovingByItself:
    def test_it_goes_its_way_from_where_it_stands_at_its_time(self):
        shape = swinging()
        way = own_way(PlacedProp(at=(0.2, 0.0, 0.0), turn=90.0, size=2.0, plays=1.0), shape, FRAMES, RATE)
        assert np.allclose(way.at[:61], way.at[0])  # it begins at the first second
        expected = np.array([0.2, 0, 0]) + rotate(about("y", 90.0), shape.motion.shifts[:200] * 2.0)
        assert np.allclose(way.at[60:260], expected)

    def test_hands_come_to_it_and_stay_on_it(self):
        who = holders("odile")
        made = carry(placed(("odile", "Right", 100, 250), plays=0.0), swinging(), who, FRAMES, RATE)
        assert np.allclose(made.way.at, swinging().motion.shifts, atol=1e-9)
        palm, _ = who["odile"].palm("Right")
        assert np.abs(made.way.at - palm)[100:251].max() < 2e-3
        assert made.short["h0"] < 4e-3

    def test_without_its_motion_it_stands(self):
        assert fastest(own_way(PlacedProp(plays=None), swinging(), 50, RATE).at) == 0

    def test_a_way_at_another_rate_and_seen_from_a_role_is_the_same_way(self):
        way = own_way(PlacedProp(plays=0.0), swinging(), FRAMES, RATE)
        assert np.allclose(way.at_rate(RATE, Fraction(30), FRAMES // 2).at, way.at[::2])
        seen = way.seen_from(BESIDE.at, BESIDE.turn)
        back = np.asarray(BESIDE.at) + rotate(about("y", BESIDE.turn), seen.at)
        assert np.allclose(back, way.at)
        assert np.allclose(multiply(about("y", BESIDE.turn), seen.turns), way.turns)


class TestFinding:
    def test_holds_are_found_where_a_hand_went_with_a_prop(self):
        """The prop's motion is that which a hand gave it; before and after it goes away from the hand."""
        who = holders("odile")
        carried = carry(placed(("odile", "Right", 90, 240)), STILL, who, FRAMES, RATE).way
        away = np.zeros((FRAMES, 3))
        away[:90, 1] = np.linspace(-0.5, 0, 90)
        away[241:, 1] = -4.9 * (np.arange(1, FRAMES - 240) / 60) ** 2  # it falls
        shape = PropShape(LANTERN.points, PropMotion(carried.turns, carried.at + away, RATE))
        found = find_holds(
            PlacedProp(plays=0.0), shape, holders("odile", "brindle", where=Standing((3, 0, 0))), FRAMES, RATE
        )
        assert [(h.role, h.side) for h in found] == [("odile", "Right")]
        assert abs(found[0].first - 90) <= 9
        assert abs(found[0].last - 240) <= 9
        assert np.linalg.norm(found[0].at) < 0.05

    def test_nothing_is_found_far_from_all_hands_and_of_nothing(self):
        far = PlacedProp(at=(4.0, 0.0, 4.0))
        assert find_holds(far, STILL, holders("odile"), FRAMES, RATE) == []
        assert find_holds(far, PropShape(np.zeros((0, 3), np.float32)), holders("odile"), FRAMES, RATE) == []


class TestPerformances:
    def test_arms_that_hold_are_in_the_performance_and_nothing_else_changes(self):
        props = {"lantern": (placed(("odile", "Right", 120, 300), at=TestTaking.SHELF, in_hand=False), STILL)}
        held = hold_props(props, holders("odile"), FRAMES, RATE)
        skeleton, free = RIGS["odile"].skeleton, PLAYED["odile"]
        made = with_arms(free, skeleton, held.arms["odile"])
        changed = np.abs(made.motion(skeleton).local - free.motion(skeleton).local).max(axis=(0, 2)) > 1e-6
        arm = {skeleton.names[j] for j in held.arms["odile"]}
        assert {n for n, c in zip(skeleton.names, changed, strict=True) if c} == arm
        assert len(arm) == 3 + 15  # and the fingers

    def test_a_stretch_of_it_has_the_arms_of_the_whole(self):
        props = {"lantern": (placed(("odile", "Right", 120, 300), at=TestTaking.SHELF, in_hand=False), STILL)}
        arms = hold_props(props, holders("odile"), FRAMES, RATE).arms["odile"]
        skeleton, free = RIGS["odile"].skeleton, PLAYED["odile"]
        whole = with_arms(free, skeleton, arms)
        cut = replace(
            free,
            channels=replace(FACE, values=FACE.values[100:200]),
            local=free.local[100:200],
            root=free.root[100:200],
        )
        assert np.array_equal(with_arms(cut, skeleton, arms, 100).local, whole.local[100:200])

    def test_who_has_no_arms_is_left_as_it_is(self):
        assert with_arms(PLAYED["odile"], None, {}) is PLAYED["odile"]

    def test_a_character_without_a_skeleton_holds_nothing(self):
        assert holder_of(PLAYED["odile"], replace(RIGS["odile"], skeleton=None), Standing()) is None


def test_a_place_of_a_way_turns_with_it():
    way = PropWay(np.zeros((2, 3)), np.stack([about("y", 0.0), about("y", 90.0)]))
    assert np.allclose(way.place(np.array([0.0, 0.0, 1.0])), [[0, 0, 1], [1, 0, 0]])
