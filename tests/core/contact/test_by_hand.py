"""Contacts set by hand stand in place of those that were found."""

from fractions import Fraction

import numpy as np
import pytest

from dynaface.core.contact.by_hand import SetContact, standing, with_set
from dynaface.core.contact.find_feet import FootContacts
from dynaface.core.curves.channels import Channels
from dynaface.core.errors import InputError
from dynaface.core.perform.join import contacts_of, retarget_body
from dynaface.core.perform.join_settings import JoinSettings, parse_join
from dynaface.sims.walk import walk

FOUND = (
    FootContacts("Left", ((10, 25), (60, 80)), ((15, 30), (60, 80)), ((10, 30), (60, 80)), 0.0),
    FootContacts("Right", ((40, 50),), ((40, 50),), ((40, 50),), 0.0),
)
RATE, FRAMES = 10.0, 100
FEET = {f.side: f.foot for f in FOUND}


def made(**by_hand):
    return {f.side: f for f in with_set(FOUND, by_hand, RATE, FRAMES)}


def test_with_nothing_set_all_stays_as_it_was_found():
    assert with_set(FOUND, {}, RATE, FRAMES) == FOUND


def test_an_edge_that_is_drawn_out_goes_on_as_the_foot_stood_there():
    left = made(a=SetContact("Left", 0.5, 4.0))["Left"]
    assert left.foot == ((5, 40), (60, 80))
    # Before it stood on the heel, after it on the toe.
    assert left.heel == ((5, 25), (60, 80))
    assert left.toe == ((15, 40), (60, 80))


def test_an_edge_that_is_drawn_in_lets_the_rest_go():
    left = made(a=SetContact("Left", 1.8, 2.2))["Left"]
    assert (left.foot, left.heel, left.toe) == (((18, 22), (60, 80)),) * 3


def test_a_new_one_is_flat():
    right = made(a=SetContact("Right", 7.0, 8.0))["Right"]
    assert right.foot == right.heel == right.toe == ((40, 50), (70, 80))


def test_one_that_is_taken_away_is_gone_and_the_other_foot_is_not_touched():
    found = made(a=SetContact("Left", 1.0, 3.0, stands=False))
    assert found["Left"].foot == ((60, 80),)
    assert found["Right"] == FOUND[1]


def test_one_over_two_takes_the_place_of_both():
    left = made(a=SetContact("Left", 2.0, 7.0))["Left"]
    assert left.foot == ((20, 70),)


def test_one_that_was_drawn_away_from_where_it_was_found_leaves_nothing_there():
    left = made(a=SetContact("Left", 4.5, 5.0, over=(1.0, 3.0)))["Left"]
    assert left.foot == ((45, 50), (60, 80))
    assert [s.key for s in standing(FEET, {"a": SetContact("Left", 4.5, 5.0, over=(1.0, 3.0))}, RATE, FRAMES)][:2] == [
        "a",
        "",
    ]


def test_what_lies_beyond_the_take_ends_with_it():
    assert made(a=SetContact("Right", 9.0, 50.0))["Right"].foot[-1] == (90, 99)


def test_every_span_says_what_set_it():
    by_hand = {"a": SetContact("Left", 0.5, 4.0), "b": SetContact("Right", 4.0, 5.0, stands=False)}
    rows = [(s.side, s.first, s.last, s.key) for s in standing(FEET, by_hand, RATE, FRAMES)]
    assert rows == [("Left", 5, 40, "a"), ("Left", 60, 80, "")]


@pytest.mark.parametrize(
    "bad",
    [{"a": {}}, {"a": {"side": "Up", "first": 0, "last": 1}}, {"a": {"side": "Left", "first": 2, "last": 1}}, [], {"a": 3},
     {"a": {"side": "Left", "first": "x", "last": 1}}, {"a": {"side": "Left", "first": 0, "last": 1, "over": [1]}}],
)  # fmt: skip
def test_bad_contacts_are_refused(bad):
    with pytest.raises(InputError):
        parse_join({"contacts": bad})


class TestOnABody:
    SEEN = walk(60, 9)

    def joined(self, **settings):
        motion = self.SEEN.motion
        face = Channels(("jawOpen",), np.zeros((motion.frames, 1), np.float32), Fraction(60))
        body = retarget_body(face, motion.skeleton, motion, JoinSettings(feet=True, **settings), contacts_of(motion))
        return motion.skeleton.pose(body.local, body.root)[1][:, motion.skeleton.index("Foot_L")]

    def test_a_foot_stands_as_long_as_it_is_told_to(self):
        first, last = next(s for s in self.SEEN.spans["footLeft"] if s[0] > 20)
        longer = {"a": SetContact("Left", (first - 12) / 60, last / 60)}
        plain, held = self.joined(), self.joined(contacts=longer)
        before = slice(first - 11, first - 1)
        assert np.ptp(plain[before], axis=0).max() > 3 * np.ptp(held[before], axis=0).max()
        far = slice(last + 60, None)
        np.testing.assert_allclose(held[far], plain[far], atol=0.02)

    def test_a_higher_ground_lifts_what_stands(self):
        plain, lifted = self.joined(), self.joined(floor=0.04)
        first, last = self.SEEN.spans["footLeft"][1]
        middle = (first + last) // 2
        assert lifted[middle, 1] - plain[middle, 1] == pytest.approx(0.04, abs=0.005)
