from fractions import Fraction

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from dynaface.core.body.rotations import about, between, head_angles, head_rotation, inverse, multiply, rotate, slerp
from dynaface.core.body.skeleton import Motion
from dynaface.core.cast.apply import apply_sheet
from dynaface.core.cast.matching import Matched, match_targets
from dynaface.core.cast.sheet import CastSheet, parse_sheet
from dynaface.core.clock.timecode import parse_timecode
from dynaface.core.curves.channels import Channels
from dynaface.core.curves.keys import Key
from dynaface.core.errors import InputError
from dynaface.core.layers.weight import Weight
from dynaface.core.match.match_settings import MatchSettings, matching_by
from dynaface.core.match.names import part_of
from dynaface.core.match.retarget import matching_of, retarget, to_local
from dynaface.core.perform.join import retarget_body
from dynaface.core.perform.join_settings import JoinSettings, parse_join
from dynaface.core.perform.perform import EYES_GIVE, perform_take
from dynaface.core.sync.timecode_offset import timecode_offset
from dynaface.sims.body_suit import move
from tests.makers import body, channels, character, skeleton

ANGLE = st.floats(-80, 80)


@given(ANGLE, ANGLE, ANGLE)
def test_head_angles_come_back(turn, nod, tilt):
    q = head_rotation(np.array([turn]), np.array([nod]), np.array([tilt]))
    np.testing.assert_allclose(np.stack(head_angles(q)).ravel(), [turn, nod, tilt], atol=1e-6)


@pytest.mark.parametrize(
    ("angles", "moved", "to"),
    [((90, 0, 0), (0, 0, 1), (1, 0, 0)), ((0, 90, 0), (0, 0, 1), (0, 1, 0)), ((0, 0, 90), (0, 1, 0), (1, 0, 0))],
)
def test_signs_turn_left_nod_up_tilt_to_the_left_shoulder(angles, moved, to):
    q = head_rotation(*(np.array(float(a)) for a in angles))
    np.testing.assert_allclose(rotate(q, np.array(moved, float)), to, atol=1e-12)


def test_the_shortest_rotation_takes_one_direction_to_the_other():
    rng = np.random.default_rng(0)
    for _ in range(50):
        a, b = rng.normal(size=3), rng.normal(size=3)
        np.testing.assert_allclose(rotate(between(a, b), a / np.linalg.norm(a)), b / np.linalg.norm(b), atol=1e-9)
    np.testing.assert_allclose(
        rotate(between(np.array([1.0, 0, 0]), np.array([-1.0, 0, 0])), np.array([1.0, 0, 0])), [-1, 0, 0], atol=1e-9
    )


def test_targets_are_matched_by_name_and_by_hand():
    report = match_targets(character(), CastSheet())
    assert {m.target: m.shape for m in report.matched}["Eye_Blink_L"] == "eyeBlinkLeft"
    assert report.unused == ("wobble",)
    assert "mouthSmileLeft" in report.missing
    assert report.eye_joints == ("eyeLeft", "eyeRight")
    by_hand = match_targets(character(), parse_sheet({"matches": {"wobble": "cheekPuff", "jawOpen": ""}}))
    assert Matched("wobble", (("cheekPuff", 1.0),), ("face",), "hand") in by_hand.matched
    assert "jawOpen" in by_hand.missing


def test_strengths_multiply_and_limits_come_last():
    given_ = channels()
    sheet = CastSheet(region_strength={"jaw": 2.0}, shape_strength={"jawOpen": 1.5}, shape_offset={"jawOpen": 0.1})
    made = apply_sheet(given_, character(), sheet)
    jaw = made.weights[:, made.targets.index("jawOpen")]
    np.testing.assert_allclose(jaw, np.clip(given_.column("jawOpen") * 3 + 0.1, 0, 1), atol=1e-6)


def test_eyes_turn_by_joints_and_their_mesh_stays_still():
    values = np.zeros((4, 1), np.float32)
    values[:, 0] = 0.5
    looking = Channels(("eyeLookOutLeft",), values, Fraction(60))
    made = apply_sheet(looking, character(), CastSheet())
    assert made.still == (("eyes", "eyeLookOutLeft"),)
    forward = rotate(made.eyes["eyeLeft"][0], np.array([0, 0, 1.0]))
    assert np.degrees(np.arctan2(forward[0], forward[2])) == pytest.approx(20, abs=1e-4)
    by_shapes = apply_sheet(looking, character(), CastSheet(eyes="shapes"))
    assert by_shapes.still == ()
    assert by_shapes.eyes == {}


@pytest.mark.parametrize(
    "bad",
    [
        {"low": 2},
        {"eyes": "lasers"},
        {"regionStrength": {"elbow": 1}},
        {"shapeStrength": {"jawOpen": 9}},
        {"colour": 1},
        {"matches": {"a": "b"}},
        {"regionStrength": 3},
    ],
)
def test_bad_sheets_are_refused(bad):
    with pytest.raises(InputError):
        parse_sheet(bad)


@pytest.mark.parametrize("bad", [{"headWeight": 0.5}, {"nudge": "x"}, {"travel": 1}, {"matches": []}, {"x": 1}])
def test_bad_joins_are_refused(bad):
    with pytest.raises(InputError):
        parse_join(bad)


def test_misleading_finger_names():
    assert part_of("Finger1_2_L") == ("finger1", "L", (2,))
    assert part_of("LeftHandThumb2")[0] == "finger1"
    assert part_of("forearm_twist_L") is None


def head_turn_of(made, target):
    local = np.broadcast_to(target.rest, (made.channels.frames, *target.rest.shape)).copy()
    for i, joint in enumerate(made.joints):
        local[:, target.index(joint)] = made.local[:, i]
    rotations, _ = target.pose(local, np.zeros((made.channels.frames, 3)))
    return head_angles(rotations[:, target.index("head")])[0]


@pytest.mark.parametrize(("weight", "expected"), [(1.0, 30.0), (0.0, 20.0), (0.5, 25.0)])
def test_the_head_is_turned_by_the_weight_and_never_twice(weight, expected):
    face = Channels(("headTurn", "headNod", "headTilt"), np.tile(np.float32([30, 0, 0]), (10, 1)), Fraction(60))
    who = character()
    made = perform_take(face, who, CastSheet(), body(turn=20), JoinSettings(head_weight=Weight(weight)))
    np.testing.assert_allclose(head_turn_of(made, who.skeleton), expected, atol=1e-3)


@pytest.mark.parametrize(("weight", "turned"), [(1.0, 0.0), (0.5, 7.5), (0.0, 15.0)])
def test_a_look_stays_in_the_world_when_the_head_is_turned_otherwise(weight, turned):
    """The face take turned its head by 30 degrees and looked 5 further; the body turned its own by 15."""
    names = ("headTurn", "headNod", "headTilt", "gazeTurnLeft", "gazeTurnRight")
    face = Channels(names, np.tile(np.float32([30, 0, 0, 5, 5]), (10, 1)), Fraction(60))
    who = character()
    looks = {}
    for look in ("head", "world"):
        made = perform_take(face, who, CastSheet(), body(turn=15), JoinSettings(head_weight=Weight(weight), look=look))
        eye = made.local[:, made.joints.index("eyeLeft")].astype(float)
        looks[look] = 2 * np.degrees(np.arctan2(eye[:, 1], eye[:, 3]))
    np.testing.assert_allclose(looks["world"] - looks["head"], turned, atol=0.01)


def test_eyes_give_no_more_for_a_look_than_eyes_can():
    face = Channels(("headTurn", "headNod", "headTilt"), np.tile(np.float32([30, 0, 0]), (10, 1)), Fraction(60))
    settings = JoinSettings(head_weight=Weight(0.0), look="world")
    made = perform_take(face, character(), CastSheet(), body(turn=-40), settings)
    eye = made.local[:, made.joints.index("eyeLeft")].astype(float)
    np.testing.assert_allclose(2 * np.degrees(np.arctan2(eye[:, 1], eye[:, 3])), EYES_GIVE, atol=0.01)


def test_the_heads_weight_is_keyed_over_time():
    face = Channels(("headTurn", "headNod", "headTilt"), np.tile(np.float32([30, 0, 0]), (21, 1)), Fraction(60))
    who, ramp = character(), Weight(keys=(Key(0, 0.0, kind="linear"), Key(20, 1.0, kind="linear")))
    made = perform_take(face, who, CastSheet(), body(turn=20), JoinSettings(head_weight=ramp))
    np.testing.assert_allclose(head_turn_of(made, who.skeleton), np.linspace(20, 30, 21), atol=1e-3)


def test_without_a_body_the_neck_shares_the_turn():
    face = Channels(("headTurn", "headNod", "headTilt"), np.tile(np.float32([30, 0, 0]), (5, 1)), Fraction(60))
    made = perform_take(face, character(), CastSheet())
    np.testing.assert_allclose(head_turn_of(made, skeleton()), 30, atol=1e-3)
    each = [
        2 * np.degrees(np.arccos(min(1, abs(made.local[0, made.joints.index(j), 3]))))
        for j in ("neck1", "neck2", "head")
    ]
    np.testing.assert_allclose(each, 10, atol=1e-2)


@pytest.mark.parametrize(
    ("sheet", "factor"),
    [
        ({"regionStrength": {"head": 0.5}}, 0.5), ({"shapeStrength": {"headTurn": 0.5}}, 0.5), ({"below": {"headTurn": 0.25}}, 0.25),
        ({"regionStrength": {"head": 0.5}, "shapeStrength": {"headTurn": 0.5}}, 0.25),
        ({"shapeStrength": {"headNod": 0}}, 1.0), ({"shapeStrength": {"jawOpen": 0}}, 1.0),
    ],
)  # fmt: skip
def test_what_a_sheet_says_of_the_heads_angles_moves_the_neck_so(sheet, factor):
    face = Channels(("headTurn", "headNod", "headTilt"), np.tile(np.float32([-30, 0, 0]), (5, 1)), Fraction(60))
    made = perform_take(face, character(), parse_sheet(sheet))
    np.testing.assert_allclose(head_turn_of(made, skeleton()), -30 * factor, atol=1e-3)


def test_a_take_without_head_angles_leaves_the_head_to_the_body():
    face = Channels(("jawOpen",), np.zeros((6, 1), np.float32), Fraction(60))
    who = character()
    made = perform_take(face, who, CastSheet(), body(turn=20))
    np.testing.assert_allclose(head_turn_of(made, who.skeleton), 20, atol=1e-3)


def test_a_body_on_its_own_skeleton_is_itself():
    motion = move(3.0, parse_timecode("01:00:00:00", Fraction(120)), 5)
    bones = motion.skeleton
    turns, root = retarget(bones, motion.local, motion.root, bones, matching_of(bones, bones, {}, {}))
    local = to_local(bones, turns)
    same = np.abs(np.sum(local * motion.local, axis=-1))
    assert same.min() > 1 - 1e-6
    np.testing.assert_allclose(root, motion.root, atol=1e-9)


def test_the_body_is_placed_by_timecode_and_nudged():
    start = parse_timecode("10:00:00:00", Fraction(60))
    face = Channels(
        ("jawOpen",), np.zeros((30, 1), np.float32), Fraction(60), 0.0, parse_timecode("10:00:01:30", Fraction(60))
    )
    moving = body(timecode=start)
    ramp = np.arange(120) / 60.0
    moving = Motion(moving.skeleton, moving.local, np.stack([ramp * 0, ramp * 0, ramp], axis=1), moving.rate, start)
    assert timecode_offset(face.timecode, moving.timecode) == pytest.approx(1.5)
    stood = retarget_body(face, skeleton(), moving, JoinSettings())
    assert stood.root[0, 2] == pytest.approx(1.5, abs=1e-6)
    later = retarget_body(face, skeleton(), moving, JoinSettings(nudge=30))
    assert later.root[0, 2] == pytest.approx(1.0, abs=1e-6)
    still = retarget_body(face, skeleton(), moving, JoinSettings(travel="spot"))
    assert np.abs(still.root[:, 2]).max() == 0


def test_joint_matches_can_be_corrected():
    found = matching_by(body().skeleton, skeleton(), MatchSettings({"handLeft": "", "head": "neck2"})).matches
    assert "handLeft" not in found
    assert found["head"] == "neck2"
    with pytest.raises(InputError, match="no joint 'tail'"):
        matching_by(body().skeleton, skeleton(), MatchSettings({"tail": "head"}))


def test_slerp_and_inverse():
    a, b = about("y", 10.0), about("y", 70.0)
    np.testing.assert_allclose(slerp(a, b, 0.5), about("y", 40.0), atol=1e-9)
    np.testing.assert_allclose(multiply(a, inverse(a)), [0, 0, 0, 1], atol=1e-12)
