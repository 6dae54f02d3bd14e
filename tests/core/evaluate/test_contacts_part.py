"""A stretch with other contacts worked out alone is what the whole evaluation gives there, and nothing changes beside it."""

from dataclasses import replace
from fractions import Fraction

import numpy as np
import pytest

from dynaface.assets import ASSETS
from dynaface.core.body.skeleton import Motion
from dynaface.core.cast.sheet import CastSheet
from dynaface.core.contact.by_hand import SetContact
from dynaface.core.contact.changed_feet import changed_frames, held_part
from dynaface.core.contact.find_feet import FootContacts, find_foot_contacts
from dynaface.core.contact.find_hands import find_touches
from dynaface.core.contact.hold_feet import hold_feet
from dynaface.core.curves.channels import Channels
from dynaface.core.evaluate.cache import Cache
from dynaface.core.evaluate.contacts_part import JoinedTake, contacts_part
from dynaface.core.evaluate.node import constant
from dynaface.core.evaluate.take import take_graph
from dynaface.core.perform.join_settings import JoinSettings
from dynaface.core.shapes.standard import HEAD_ANGLES
from dynaface.formats.character_file import open_character
from dynaface.sims.touches import Plan, touched
from dynaface.sims.walk import walk

ODILE = open_character((ASSETS / "characters/odile.glb").read_bytes())[0]
ONE = walk(60, 3).motion
TIMES = 2400 // ONE.frames
LONG = replace(ONE, local=np.tile(ONE.local, (TIMES, 1, 1)), root=np.tile(ONE.root, (TIMES, 1)))
BODY = touched(LONG, [Plan("Hands", 20.0, 21.0), Plan("RightHand", 30.0, 31.0)])
FEET, HANDS = find_foot_contacts(BODY), find_touches(BODY)
FACE = Channels(HEAD_ANGLES, np.random.default_rng(3).normal(0, 5, (BODY.frames, 3)).astype(np.float32), Fraction(60))
SPAN = next(s for s in FEET[0].foot if 600 < s[0] < 900)
BEFORE = JoinSettings(feet=True, touch=True)


def graph(settings, body=BODY, **more):
    return take_graph(
        constant("face", FACE), 60.0, [], {}, constant("odile", ODILE), None, constant("body", body), settings, **more
    )


def taken(settings, cache, **more):
    made = graph(settings, **more)
    made.performed.result(cache)
    return JoinedTake(made, ODILE, CastSheet(), BODY, FEET, HANDS, tuple(more.get("joints", ())))


def moved(side, first, last, over=None, **more):
    return replace(
        BEFORE,
        contacts={"a": SetContact(side, first / 60, last / 60, over=over and tuple(v / 60 for v in over), **more)},
    )


CHANGES = {
    "an edge of a foot": moved("Left", SPAN[0], SPAN[1] + 6, SPAN),
    "a foot that stands no more": moved("Left", *SPAN, stands=False),
    "one more contact of a foot": moved("Right", SPAN[1] - 10, SPAN[1] + 4),
    "an edge of hands": moved("Hands", 20 * 60 - 20, 21 * 60, (20 * 60 - 3, 21 * 60 + 3)),
    "a hand that is on the head no more": moved("RightHand", 30 * 60 - 20, 31 * 60 + 20, stands=False),
}


@pytest.mark.parametrize("what", CHANGES)
def test_a_part_gives_what_the_whole_gives(what):
    cache = Cache(900_000_000)
    part = contacts_part(taken(BEFORE, cache), BEFORE, CHANGES[what], cache)
    was, now = graph(BEFORE).performed.result(cache), graph(CHANGES[what]).performed.result(cache)
    own = slice(part.first, part.first + len(part.performed.root))
    same = np.abs((part.performed.local.astype(float) * now.local[own]).sum(axis=2))
    assert same == pytest.approx(1.0, abs=1e-6)
    assert part.performed.root == pytest.approx(now.root[own], abs=1e-6)
    assert part.performed.joints == now.joints
    beside = np.ones(BODY.frames, bool)
    beside[own] = False
    assert np.abs((was.local[beside].astype(float) * now.local[beside]).sum(axis=2)) == pytest.approx(1.0, abs=1e-6)
    assert was.root[beside] == pytest.approx(now.root[beside], abs=1e-6)
    # Something did change, and it is a short stretch.
    assert np.abs((was.local[own].astype(float) * now.local[own]).sum(axis=2)).min() < 1 - 1e-6
    assert own.stop - own.start < BODY.frames // 4


def test_curves_of_joints_come_along():
    cache = Cache(900_000_000)
    change = CHANGES["an edge of a foot"]
    part = contacts_part(taken(BEFORE, cache, joints=["footLeft"]), BEFORE, change, cache)
    whole = graph(change, joints=["footLeft"]).joints.result(cache)
    own = slice(part.first, part.first + len(part.performed.root))
    assert part.joints.values == pytest.approx(whole.values[own], abs=1e-4)


def test_what_changes_nothing_is_a_short_stretch_of_the_same():
    cache = Cache(900_000_000)
    part = contacts_part(taken(BEFORE, cache), BEFORE, moved("Left", *SPAN), cache)
    assert part.performed.root == pytest.approx(graph(BEFORE).performed.result(cache).root[: len(part.performed.root)])


def test_most_of_a_take_is_not_worked_out_as_a_part():
    cache = Cache(900_000_000)
    assert contacts_part(taken(BEFORE, cache), BEFORE, moved("Left", 100, 2000), cache) is None
    bare = take_graph(constant("face", FACE), 60.0, [], {})
    assert contacts_part(JoinedTake(bare, ODILE, CastSheet(), BODY, FEET, HANDS), BEFORE, BEFORE, cache) is None


class TestFeet:
    def test_contacts_on_another_ground_or_of_other_feet_change_all(self):
        assert changed_frames(FEET, [replace(c, floor=0.1) for c in FEET], BODY) is None
        assert changed_frames(FEET, FEET[:1], BODY) is None
        assert changed_frames(FEET, FEET, BODY) == (0, 0)

    def test_any_frames_are_as_in_the_whole(self):
        whole = hold_feet(BODY, FEET)
        for first, stop in ((0, 40), (700, 760), (BODY.frames - 30, BODY.frames)):
            part = held_part(BODY, FEET, first, stop)
            assert np.abs((part.local * whole.local[first:stop]).sum(axis=2)) == pytest.approx(1.0, abs=1e-9)
            assert part.root == pytest.approx(whole.root[first:stop], abs=1e-9)

    def test_without_any_contact_feet_are_lifted_as_in_the_whole(self):
        none = [FootContacts(c.side, (), (), (), c.floor + 0.02) for c in FEET]
        part, whole = held_part(BODY, none, 100, 130), hold_feet(BODY, none)
        assert isinstance(part, Motion)
        assert np.abs((part.local * whole.local[100:130]).sum(axis=2)) == pytest.approx(1.0, abs=1e-9)
