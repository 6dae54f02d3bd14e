"""Bodies in feeds: skeletons said and read, packets of a motion, and how they stand on a character at once."""

from dataclasses import replace
from fractions import Fraction

import numpy as np
import pytest

from dynaface.core.body.skeleton import Motion
from dynaface.core.cast.character import Character
from dynaface.core.cast.sheet import CastSheet
from dynaface.core.clock.timecode import parse_timecode
from dynaface.core.errors import InputError, LimitError
from dynaface.core.feed.body_packets import body_packets
from dynaface.core.feed.joint_rows import MOST_JOINTS, rows_of, skeleton_of
from dynaface.core.feed.messages import messages_of, packets_of
from dynaface.core.feed.packet import JointRow
from dynaface.core.match.anatomy import anatomy_of
from dynaface.core.match.match_settings import MatchSettings
from dynaface.core.perform.follow_body import BodyFollower, hung_as
from dynaface.core.perform.join import Moments, carried_body
from dynaface.core.perform.join_settings import JoinSettings
from dynaface.core.perform.one_frame import one_frame
from dynaface.core.shapes.standard import CHANNELS, PLACE_OF
from dynaface.sims.body_suit import move, skeleton
from dynaface.sims.skeletons import BUILDS, make

STILL = (0.0, 0.0, 0.0)
NO_TURN = (0.0, 0.0, 0.0, 1.0)


def person():
    """A character's skeleton whose arms hang by 40 degrees and whose hands have four fingers."""
    return make(next(b for b in BUILDS if b.make == "four digits"), 1).skeleton


@pytest.fixture(scope="module")
def walk():
    return move(3.0, parse_timecode("10:00:00:00", Fraction(60)), 2)


def on(target, packet, source):
    return BodyFollower(source, target, MatchSettings()).frame(packet.joints, packet.root)


def test_a_skeleton_comes_back_from_its_rows():
    made = skeleton()
    again = skeleton_of(rows_of(made))
    assert again.names == made.names
    assert again.parents == made.parents
    assert again.offsets == pytest.approx(made.offsets)
    assert again.rest == pytest.approx(made.rest)


@pytest.mark.parametrize(
    ("rows", "error"),
    [
        ([], InputError),
        ([JointRow("a", "", STILL, NO_TURN), JointRow("a", "", STILL, NO_TURN)], InputError),
        ([JointRow("a", "b", STILL, NO_TURN), JointRow("b", "", STILL, NO_TURN)], InputError),
        ([JointRow(f"j{n}", "", STILL, NO_TURN) for n in range(MOST_JOINTS + 1)], LimitError),
    ],
)
def test_rows_that_are_no_skeleton_are_refused(rows, error):
    with pytest.raises(error):
        skeleton_of(rows)


def test_packets_of_a_motion_say_its_skeleton_each_second_and_come_back_as_messages(walk):
    made = list(body_packets(walk, "mara"))
    assert [n for n, p in enumerate(made) if p.skeleton] == [0, 120, 240]
    assert made[60].timecode == "10:00:00:30"
    (again,) = packets_of(messages_of(made[0]))
    assert again == replace(made[0], ours=True)


@pytest.mark.parametrize(
    "arguments",
    [[], ["a", "", 0, 0, 0, 0, 0, 0], ["a", "", 0, 0, 0, 0, 0, 0, 0], [1, "", 0, 0, 0, 0, 0, 0, 1]],
    ids=["nothing", "too short", "no rotation", "no name"],
)
def test_a_message_that_is_no_skeleton_is_refused(arguments):
    with pytest.raises(InputError):
        packets_of([("/dynaface/mara/skeleton", arguments)])


def test_a_frame_stands_on_a_character_as_the_whole_take_does(walk):
    target = person()
    for number in (0, 150, 300):
        found = on(target, list(body_packets(walk))[number], walk.skeleton)
        moments = Moments(np.array([number / 120]), Fraction(60), walk.timecode)
        wanted = carried_body(moments, target, walk, JoinSettings())
        assert np.abs((found.local * wanted.local).sum(axis=-1)) == pytest.approx(1, abs=1e-9)
        assert found.root == pytest.approx(wanted.root, abs=1e-9)
        assert found.root_joint == wanted.root_joint


def test_joints_of_which_only_names_are_known_hang_as_the_character_does(walk):
    target = person()
    packet = list(body_packets(walk))[300]
    source = hung_as(target, list(packet.joints))
    assert source is not None
    found = on(target, replace(packet, root=None), source)
    wanted = on(target, packet, walk.skeleton)
    places = [target.pose(f.local, np.zeros((1, 3)))[1][0] for f in (found, wanted)]
    assert np.abs(places[0] - places[1]).max() < 0.15


def test_names_that_say_nothing_hang_on_nothing():
    assert hung_as(person(), ["a", "b", "c", "Hips"]) is None


def test_joints_that_are_not_said_are_at_rest_and_a_root_that_is_not_said_stays(walk):
    target = person()
    found = BodyFollower(walk.skeleton, target, MatchSettings()).frame({"nowhere": NO_TURN}, None)
    rest = Motion(walk.skeleton, walk.skeleton.rest[None], np.zeros((1, 3)), Fraction(60))
    wanted = carried_body(Moments(np.zeros(1), Fraction(60)), target, rest, JoinSettings())
    assert found.local == pytest.approx(wanted.local, abs=1e-9)
    assert not found.root.any()


def test_the_head_is_the_faces_where_it_is_known_and_else_the_bodys(walk):
    target = person()
    character = Character("Test", (), target)
    body = on(target, list(body_packets(walk))[300], walk.skeleton)
    row = np.full(len(CHANNELS), np.nan, np.float32)
    alone = one_frame(CHANNELS, row, character, CastSheet(), body)
    row[PLACE_OF["headTurn"]] = 40.0
    turned = one_frame(CHANNELS, row, character, CastSheet(), body)
    head = target.names[anatomy_of(target).joint("head")]
    place = alone.joints.index(head)
    own = body.local[0, target.index(head)]
    assert abs(float(alone.motion[place] @ own)) == pytest.approx(1, abs=1e-6)
    assert abs(float(turned.motion[turned.joints.index(head)] @ own)) < 0.999
