"""Bodies placed in a shot: as their take shows them, cut, repeated, over each other, and where the one before stood."""

from dataclasses import replace
from fractions import Fraction

import numpy as np
import pytest
from numpy.testing import assert_allclose

from dynaface.core.body.rotations import about, multiply
from dynaface.core.contact.find_feet import find_foot_contacts
from dynaface.core.contact.find_hands import find_touches
from dynaface.core.curves.channels import Channels
from dynaface.core.layers.weight import Weight
from dynaface.core.match.rest import ahead
from dynaface.core.perform.join import retarget_body
from dynaface.core.perform.join_settings import JoinSettings
from dynaface.core.shot.body_lane import held_bodies, lay_bodies
from dynaface.core.shot.lane import covered
from dynaface.core.shot.placed_body import BodyTake, carry_placed
from dynaface.core.shot.placement import Placement
from dynaface.sims.skeletons import BUILDS, make
from dynaface.sims.walk import walk

RIG = make(BUILDS[0], 12).skeleton
WALK = walk(60, 4).motion
SECONDS = Fraction(WALK.frames, 60)
RATE = Fraction(60)


def place(start=0, first=0, last=2, **more) -> Placement:
    return Placement(Fraction(start), Fraction(first), Fraction(last), **more)


def carried(placed, follows=False, motion=WALK, frames=600, rate=RATE, **settings):
    take = BodyTake(RATE, None, JoinSettings(**settings))
    contacts = find_foot_contacts(motion)
    return carry_placed(placed, follows, take, RIG, motion, None, contacts, find_touches(motion), rate, frames)


def laid(*placed, frames=600, rate=RATE):
    return lay_bodies(placed, RIG, rate, frames).body


def alike(one, other, places=1e-9):
    assert_allclose(one.root, other.root, atol=places)
    dots = np.abs(np.sum(one.local * other.local, axis=2))
    assert_allclose(dots, 1, atol=places)
    assert_allclose(np.abs(np.sum(one.turns * other.turns, axis=2)), 1, atol=places)


def hips(body):
    return RIG.pose(body.local, body.root)[1][:, 0]


def of_take(frames, **settings):
    face = Channels(("jawOpen",), np.zeros((frames, 1), np.float32), RATE)
    return retarget_body(face, RIG, WALK, JoinSettings(**settings), find_foot_contacts(WALK))


class TestOne:
    @pytest.mark.parametrize("start", [False, True])
    def test_at_the_takes_own_rate_it_is_bit_for_bit_what_the_take_shows(self, start):
        frames = WALK.frames
        made = laid(carried(place(last=SECONDS), frames=frames, start=start), frames=frames)
        take = of_take(frames, start=start)
        for name in ("turns", "local", "root"):
            assert np.array_equal(getattr(made, name), getattr(take, name))
        assert (made.moving, made.root_joint) == (take.moving, take.root_joint)

    @pytest.mark.parametrize("follows", [False, True])
    def test_split_in_two_nothing_changes(self, follows):
        whole = carried(place(Fraction(1, 2), 1, 3), follows, start=True)
        halves = [carried(p, follows, start=True) for p in whole.placement.split(Fraction(3, 2))]
        before = carried(place(-1, Fraction(1, 2), 2), start=True)
        alike(laid(before, *halves), laid(before, whole))

    def test_beyond_its_ends_it_stands_as_it_began_and_ended(self):
        made, take = laid(carried(place(1, 1, 2))), of_take(WALK.frames)
        alike(made.rows(slice(0, 60)), replace(made, **{n: getattr(take, n)[60:61].repeat(60, 0) for n in ("turns", "local", "root")}))  # fmt: skip
        assert_allclose(made.root[300], take.root[120], atol=1e-9)

    def test_half_speed_shows_every_frame_twice_as_long(self):
        made, take = laid(carried(place(0, 0, 2, speed=Fraction(1, 2)))), of_take(WALK.frames)
        assert_allclose(made.root[:240:2], take.root[:120], atol=1e-9)

    def test_a_mute_one_is_not_there(self):
        made = laid(carried(place(mute=True)))
        assert not made.moving
        assert np.array_equal(made.root, np.zeros((600, 3)))


class TestRepeated:
    def test_each_pass_goes_on_where_the_one_before_ended(self):
        made, take = hips(laid(carried(place(0, 3, 4, repeats=Fraction(3))))), hips(of_take(WALK.frames))
        far = take[240] - take[180]
        assert np.linalg.norm(far[[0, 2]]) > 0.3
        for number in (1, 2):
            assert np.linalg.norm((made[60 * number] - made[60 * number - 1])[[0, 2]]) < 0.05
        assert np.linalg.norm((made[179] - made[0])[[0, 2]]) > 2.5 * np.linalg.norm(far[[0, 2]])

    def test_a_seam_leads_over_without_a_jump(self):
        plain, soft = (
            laid(carried(place(0, 1, 2, repeats=Fraction(2), seam=s))) for s in (Fraction(0), Fraction(1, 5))
        )
        jumps = [np.abs(np.sum(m.local[59] * m.local[60], axis=1)).min() for m in (plain, soft)]
        assert jumps[1] > jumps[0]


class TestSeveral:
    def test_one_that_follows_begins_where_the_other_stands_and_faces_its_way(self):
        turned = replace(WALK, local=WALK.local.copy(), root=WALK.root + [3.0, 0, -2.0])
        turned.local[:, 0] = multiply(about("y", 70.0), turned.local[:, 0])
        one = carried(place(0, 0, 2))
        loose, tied = (laid(one, carried(place(2, 2, 3), f, turned)) for f in (False, True))
        gaps = [np.linalg.norm((hips(m)[120] - hips(m)[119])[[0, 2]]) for m in (loose, tied)]
        assert gaps[0] > 1
        assert gaps[1] < 0.05
        at = next(i for i, n in enumerate(RIG.names) if n in tied.moving)
        assert abs(ahead(tied.turns[120, at]) - ahead(one.end.turns[0, at])) < 1e-6

    def test_two_that_overlap_go_over_into_each_other(self):
        one, other = carried(place(0, 0, 2)), carried(place(1, 0, 2), True)
        made = laid(one, other)
        alike(made.rows(slice(0, 60)), one.body.rows(slice(0, 60)))
        steps = np.abs(np.sum(made.local[1:] * made.local[:-1], axis=2)).min(axis=1)
        assert steps[55:125].min() > np.abs(np.sum(one.body.local[1:] * one.body.local[:-1], axis=2)).min() - 0.005

    def test_a_higher_lane_lies_over_a_lower_one_by_its_weight(self):
        low = carried(place(0, 0, 3))
        for weight in (0.0, 0.5, 1.0):
            high = carried(place(1, 2, 3, lane=1, weight=Weight(weight)))
            made = laid(low, high)
            expected = low.body.root[80] + (high.body.root[20] - low.body.root[80]) * weight
            assert_allclose(made.root[80], expected, atol=1e-9)

    @pytest.mark.parametrize(("out", "into"), [(0, 0), (1, 0), (0, 1), (1, 1)])
    def test_between_two_the_character_goes_over_without_a_jump(self, out, into):
        half = Fraction(1, 2)
        made = laid(carried(place(0, 0, 2, fade_out=out * half)), carried(place(4, 3, 4, fade_in=into * half)))
        assert np.abs(np.diff(made.root, axis=0)).max() < 0.12

    def test_no_body_is_at_rest(self):
        made = lay_bodies([], RIG, RATE, 10).body
        assert np.array_equal(made.local[3], RIG.rest)


class TestFeet:
    def test_feet_stand_where_they_stood_in_the_take(self):
        frames = WALK.frames
        made = lay_bodies([carried(place(last=SECONDS), frames=frames, feet=True)], RIG, RATE, frames)
        stood, take = held_bodies(made, RIG, RATE), of_take(frames, feet=True)
        assert not np.array_equal(made.body.local, take.local)
        for name in ("turns", "local", "root"):
            assert np.array_equal(getattr(stood, name), getattr(take, name))

    def test_a_take_whose_feet_are_left_alone_has_none_that_stand(self):
        assert lay_bodies([carried(place())], RIG, RATE, 600).stands == ()

    def test_only_what_is_seen_stands(self):
        under, over = carried(place(0, 0, 3), feet=True), carried(place(1, 0, 1, lane=1))
        stands = lay_bodies([under, over], RIG, RATE, 600).stands
        assert stands
        assert not any(a < 120 and b >= 60 for foot in stands for a, b in foot.foot)


class TestCovered:
    def test_a_face_is_there_within_its_clip_and_eases_off_beside_it(self):
        share = covered([place(1, 0, 1)], Fraction(20), 60)
        assert share[:15].max() == 0
        assert (share[20:40] == 1).all()
        assert 0 < share[18] < 1
        assert share[46:].max() == 0

    def test_between_two_that_follow_each_other_nothing_is_missing(self):
        assert (covered([place(0, 0, 1), place(1, 0, 2)], Fraction(20), 60) == 1).all()

    def test_mute_ones_show_nothing(self):
        assert covered([place(mute=True)], Fraction(20), 60).max() == 0
