"""Feet on the ground: found on walks with planned footsteps, held without sliding, lifted out of the ground, knees let be."""

from dataclasses import replace
from fractions import Fraction

import numpy as np
import pytest

from dynaface.assets import ASSETS
from dynaface.core.body.rotations import about, multiply, rotate
from dynaface.core.body.skeleton import Motion, at_rest
from dynaface.core.cast.sheet import CastSheet
from dynaface.core.contact.feet import feet_of, has_feet, leg_joints, rest_ground
from dynaface.core.contact.find_feet import FootContacts, find_foot_contacts, hysteresis, retimed, spans_of
from dynaface.core.contact.hold_feet import hold_feet
from dynaface.core.curves.channels import Channels
from dynaface.core.errors import InputError
from dynaface.core.perform.join import contacts_of, retarget_body
from dynaface.core.perform.join_settings import JoinSettings, parse_join
from dynaface.core.perform.perform import perform_take
from dynaface.formats.gltf.character import read_character
from dynaface.sims.body_suit import skeleton as suit
from dynaface.sims.walk import spoilt, walk
from tests.makers import skeleton

RIGS = {n: read_character((ASSETS / f"characters/{n}.glb").read_bytes()) for n in ("odile", "brindle", "kettle")}
SEEDS = (3, 5, 11)


def places(motion):
    """side -> (heel, toe), each (frames, 3)."""
    rotations, positions = motion.skeleton.pose(motion.local, motion.root)
    return {f.side: f.places(rotations, positions) for f in feet_of(motion.skeleton)}


def slides(motion, contacts):
    """Metres by which each place that is in contact goes while it is."""
    at = places(motion)
    return [
        float(np.linalg.norm(np.ptp(place[first : last + 1], axis=0)))
        for c in contacts
        for place, spans in zip(at[c.side], (c.heel, c.toe), strict=True)
        for first, last in spans
    ]


class TestFeet:
    @pytest.mark.parametrize("name", RIGS)
    def test_heel_and_ball_lie_on_one_ground_before_and_behind_the_ankle(self, name):
        rig = RIGS[name].skeleton
        local, root = at_rest(rig, 1)
        for heel, ball in places(Motion(rig, local, root, Fraction(60))).values():
            assert heel[0, 2] < ball[0, 2]
            assert abs(heel[0, 1] - ball[0, 1]) < 0.05
            assert heel[0, 1] == pytest.approx(rest_ground(rig), abs=1e-6)

    def test_a_skeleton_without_legs_is_refused_with_what_is_missing(self):
        assert not has_feet(skeleton())
        with pytest.raises(InputError, match="no left leg with a foot"):
            find_foot_contacts(Motion(skeleton(), *at_rest(skeleton(), 5), Fraction(60)))

    def test_legs_alone_are_the_legs_and_what_they_hang_on(self):
        names = {suit().names[j] for j in leg_joints(suit())}
        assert names == {"Hips", *(f"{n}_{s}" for n in ("UpLeg", "LowLeg", "Foot", "Toe") for s in "LR")}


class TestFinding:
    @pytest.mark.parametrize("seed", SEEDS)
    def test_a_clean_walk_gives_its_planned_contacts(self, seed):
        made = walk(60, seed)
        for found in find_foot_contacts(made.motion):
            planned = made.spans[f"foot{found.side}"]
            assert len(found.foot) == len(planned)
            assert np.abs(np.array(found.foot) - planned).max() <= 2
            assert abs(found.floor) < 0.005

    def test_it_is_the_same_for_the_mirrored_side_and_another_size(self):
        made = walk(60, SEEDS[0]).motion
        small = replace(made.skeleton, offsets=made.skeleton.offsets * 0.5)
        shrunk = find_foot_contacts(replace(made, skeleton=small, root=made.root * 0.5))
        for one, other in zip(find_foot_contacts(made), shrunk, strict=True):
            assert len(one.foot) == len(other.foot)
            assert np.abs(np.array(one.foot) - np.array(other.foot)).max() <= 1

    def test_one_who_stands_stands_and_one_in_the_air_does_not(self):
        local, root = at_rest(suit(), 60)
        still = find_foot_contacts(Motion(suit(), local, root, Fraction(60)))
        assert all(c.foot == c.heel == c.toe == ((0, 59),) for c in still)
        root[20:40, 1] = 0.4
        hopped = find_foot_contacts(Motion(suit(), local, root, Fraction(60)))
        assert all(len(c.foot) == 2 and c.foot[0][1] < 22 and c.foot[1][0] > 37 for c in hopped)

    def test_spans_and_hysteresis(self):
        held = np.array([1, 1, 0, 0, 1, 0, 1], bool)
        assert spans_of(held) == ((0, 1), (4, 4), (6, 6))
        assert spans_of(np.zeros(3, bool)) == ()
        assert hysteresis(np.array([0, 1, 0, 0, 0, 0, 0], bool), held).tolist() == [
            True,
            True,
            False,
            False,
            False,
            False,
            False,
        ]

    def test_contacts_are_carried_to_another_rate_and_beginning(self):
        one = FootContacts("Left", ((0, 59),), ((30, 59), (200, 240)), ((0, 59), (200, 240)), 0.1)
        (moved,) = retimed((one,), 120.0, 0.1 + np.arange(60) / 60, -0.2)
        assert moved == FootContacts("Left", ((0, 23),), ((9, 23),), ((0, 23),), -0.2)


class TestHolding:
    @pytest.mark.parametrize("seed", SEEDS)
    def test_what_stands_does_not_slide_however_the_suit_drifts(self, seed):
        seen = spoilt(walk(60, seed).motion, 0.15, 0.001, 0.05, seed)
        found = find_foot_contacts(seen)
        held = hold_feet(seen, found)
        assert max(slides(seen, found)) > 0.01
        assert max(slides(held, found)) < 0.002
        assert min(p[:, 1].min() for both in places(held).values() for p in both) > found[0].floor - 0.002

    def test_a_clean_walk_is_left_as_it_is(self):
        made = walk(60, SEEDS[0]).motion
        held = hold_feet(made, find_foot_contacts(made))
        assert np.abs(held.root - made.root).max() < 1e-3
        off = made.skeleton.pose(held.local, held.root)[1] - made.skeleton.pose(made.local, made.root)[1]
        assert np.abs(off).max() < 0.004

    def test_no_contacts_and_no_frames_change_nothing(self):
        made = walk(60, SEEDS[0]).motion
        assert hold_feet(made, ()) is made
        none = replace(made, local=made.local[:0], root=made.root[:0])
        assert hold_feet(none, (FootContacts("Left", (), (), (), 0.0),)) is none

    def test_knees_go_on_pointing_where_they_did(self):
        seen = spoilt(walk(60, SEEDS[1]).motion, 0.15, 0.001, 0.05, 1)
        held = hold_feet(seen, find_foot_contacts(seen))
        before, after = (
            m.skeleton.pose(m.local, m.root)[0][:, m.skeleton.names.index("LowLeg_L")] for m in (seen, held)
        )
        across = [rotate(turn, np.broadcast_to([1.0, 0, 0], (len(turn), 3))) for turn in (before, after)]
        assert (across[0] * across[1]).sum(axis=1).min() > np.cos(np.radians(12))

    def test_a_leg_that_is_too_short_lowers_the_hips_and_reaches(self):
        local, root = at_rest(suit(), 90)
        root[:, 1] = 0.03 * np.sin(np.arange(90) / 14) ** 2  # floats up, while its feet are said to stand
        floating = Motion(suit(), local, root, Fraction(60))
        said = tuple(
            FootContacts(s, ((0, 89),), ((0, 89),), ((0, 89),), rest_ground(suit())) for s in ("Left", "Right")
        )
        held = hold_feet(floating, said)
        assert (root[:, 1] - held.root[:, 1]).max() > 0.02
        assert max(slides(held, said)) < 0.003

    def test_a_foot_in_the_ground_is_lifted_where_it_does_not_stand(self):
        local, root = at_rest(suit(), 60)
        local[20:40, suit().names.index("UpLeg_L")] = about("x", -10.0)
        root[:, 1] = -0.04
        sunk = Motion(suit(), local, root, Fraction(60))
        ground = rest_ground(suit())
        held = hold_feet(sunk, tuple(FootContacts(s, (), (), (), ground) for s in ("Left", "Right")))
        assert min(p[:, 1].min() for both in places(sunk).values() for p in both) < ground - 0.03
        assert min(p[:, 1].min() for both in places(held).values() for p in both) > ground - 0.002


class TestOnACharacter:
    def face(self, frames):
        return Channels(("jawOpen",), np.zeros((frames, 1), np.float32), Fraction(60))

    @pytest.mark.parametrize("name", ["odile", "brindle"])
    def test_feet_that_stood_in_the_body_take_stand_on_the_character(self, name):
        seen = spoilt(walk(120, SEEDS[2]).motion, 0.15, 0.001, 0.05, 4)
        rig, frames = RIGS[name].skeleton, seen.frames // 2
        loose, stood = (
            retarget_body(self.face(frames), rig, seen, JoinSettings(feet=f), contacts_of(seen)) for f in (False, True)
        )
        contacts = retimed(find_foot_contacts(seen), 120.0, np.arange(frames) / 60, rest_ground(rig))
        motions = [Motion(rig, m.local, m.root, Fraction(60)) for m in (loose, stood)]
        assert max(slides(motions[0], contacts)) > 0.01
        assert max(slides(motions[1], contacts)) < 0.003
        assert np.allclose(stood.turns, multiply(rig.pose(stood.local, stood.root)[0], _back(rig)), atol=1e-9)

    def test_without_legs_it_stays_as_it_is(self):
        made = walk(60, SEEDS[0]).motion
        still, asked = (
            perform_take(
                self.face(30), replace(RIGS["odile"], skeleton=skeleton()), CastSheet(), made, JoinSettings(feet=f)
            )
            for f in (False, True)
        )
        assert still.local.tobytes() == asked.local.tobytes()

    def test_it_is_switched_on_or_off(self):
        assert parse_join({"feet": True}).feet
        with pytest.raises(InputError, match="feet is 1"):
            parse_join({"feet": 1})


def _back(rig):
    return rig.global_rest()[0] * [-1.0, -1.0, -1.0, 1.0]
