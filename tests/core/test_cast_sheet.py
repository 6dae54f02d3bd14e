"""What a cast sheet does to channels: strengths, response, directions, mixtures, combinations, joints."""

from fractions import Fraction

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from dynaface.core.body.rotations import about, rotate
from dynaface.core.cast.apply import apply_sheet
from dynaface.core.cast.character import Character, MeshTargets
from dynaface.core.cast.joints import parse_drive
from dynaface.core.cast.match import match_by_name
from dynaface.core.cast.matching import match_targets
from dynaface.core.cast.sheet import CastSheet, describe_sheet, parse_sheet
from dynaface.core.cast.study import Study
from dynaface.core.curves.channels import Channels
from dynaface.core.errors import InputError
from dynaface.core.shapes.action_units import UNIT_OF, parts_of_unit
from dynaface.core.shapes.standard import SHAPES
from tests.makers import skeleton


def rig(*targets, study=None):
    return Character("Rig", (MeshTargets("face", targets),), skeleton(), study)


def played(sheet, character, **curves):
    """Weights by target for a take of these channels."""
    names = tuple(curves)
    values = np.array([np.atleast_1d(c) for c in curves.values()], np.float32).T
    made = apply_sheet(Channels(names, values, Fraction(60)), character, parse_sheet(sheet))
    return {t: made.weights[:, i] for i, t in enumerate(made.targets)}, made


def test_one_channel_drives_many_targets_and_many_one():
    sheet = {"matches": {"a": "jawOpen", "b": {"jawOpen": 0.5, "mouthFunnel": 0.4}, "c": ""}}
    made, _ = played(sheet, rig("a", "b", "c"), jawOpen=[0.6], mouthFunnel=[0.5])
    assert made["a"][0] == pytest.approx(0.6)
    assert made["b"][0] == pytest.approx(0.5 * 0.6 + 0.4 * 0.5)
    assert "c" not in made


def test_order_is_strength_response_offset_limit_then_target():
    sheet = {"shapeStrength": {"jawOpen": 0.5}, "wayStrength": {"jaw open": 2.0}, "bend": {"jawOpen": 1.0},
             "shapeOffset": {"jawOpen": 0.1}, "shapeLimit": {"jawOpen": [0.0, 0.7]}}  # fmt: skip
    made, _ = played(sheet, rig("jawOpen"), jawOpen=[0.0, 0.25, 1.0])
    np.testing.assert_allclose(made["jawOpen"], [0.1, 0.25**0.5 + 0.1, 0.7], atol=1e-6)


def test_a_region_goes_each_way_with_a_strength_of_its_own():
    sheet = {"wayStrength": {"brows up": 1.5, "brows down": 0.5}}
    made, _ = played(sheet, rig("browInnerUp", "browDownLeft"), browInnerUp=[0.4], browDownLeft=[0.4])
    assert (made["browInnerUp"][0], made["browDownLeft"][0]) == pytest.approx((0.6, 0.2))


def test_angles_have_a_strength_below_rest():
    names, values = ("headTurn",), np.array([[10.0], [-10.0]], np.float32)
    from dynaface.core.cast.apply import drive_channels

    driven = drive_channels(Channels(names, values, Fraction(60)), parse_sheet({"below": {"headTurn": 0.5}}))
    np.testing.assert_allclose(driven[:, 0], [10, -5])


def test_a_corrective_target_follows_the_product_or_the_least_of_two():
    of = ["jawOpen", "mouthSmileLeft"]
    both = {"combinations": {"p": {"of": of, "gain": 2.0}, "l": {"of": of, "by": "least"}}}
    made, _ = played(both, rig("p", "l"), jawOpen=[0.5, 0.5], mouthSmileLeft=[0.4, 0.0])
    np.testing.assert_allclose(made["p"], [0.4, 0.0], atol=1e-6)
    np.testing.assert_allclose(made["l"], [0.4, 0.0], atol=1e-6)


@pytest.mark.parametrize("degrees", [20.0, -20.0])
def test_the_jaw_is_turned_to_a_side_without_losing_its_travel(degrees):
    study = Study(travel={"open to aside": 3.0})
    targets = ("jawOpen", "jawLeft", "jawRight")
    made, _ = played(
        {"directions": {"jaw aside": degrees}}, rig(*targets, study=study), jawOpen=[0.3], jawLeft=[0.0], jawRight=[0.0]
    )
    side, other = ("jawLeft", "jawRight") if degrees > 0 else ("jawRight", "jawLeft")
    assert made[other][0] == 0
    assert np.degrees(np.arctan2(made[side][0], made["jawOpen"][0] * 3)) == pytest.approx(abs(degrees), abs=1e-3)
    assert np.hypot(made[side][0], made["jawOpen"][0] * 3) == pytest.approx(0.9, abs=1e-5)


def test_lip_corners_are_turned_upward():
    made, _ = played({"directions": {"lips left": 30}}, rig("mouthSmileLeft", "mouthStretchLeft", "mouthFrownLeft"),
                     mouthSmileLeft=[0.0], mouthStretchLeft=[0.5], mouthFrownLeft=[0.0])  # fmt: skip
    assert made["mouthSmileLeft"][0] == pytest.approx(0.25, abs=1e-5)
    assert made["mouthStretchLeft"][0] == pytest.approx(0.5 * np.cos(np.radians(30)), abs=1e-5)


def test_a_joint_turns_about_its_axis_and_sign():
    sheet = {"joints": {"chest:jawOpen": {"moves": "turn", "axis": [0, -2, 0], "most": 40},
                        "hips:jawLeft": {"moves": "shift", "axis": [0, 0, 1], "most": 0.02}}}  # fmt: skip
    _, made = played(sheet, rig("x"), jawOpen=[0.5, 1.0], jawLeft=[0.0, 1.0])
    ahead = rotate(made.turns["chest"], np.array([0.0, 0, 1]))
    expected = rotate(about("y", np.array([-20.0, -40.0])), np.array([0.0, 0, 1]))
    np.testing.assert_allclose(ahead, expected, atol=1e-9)
    np.testing.assert_allclose(made.shifts["hips"], [[0, 0, 0], [0, 0, 0.02]], atol=1e-12)


def test_a_drive_bends_and_goes_the_other_way_below_rest():
    drive = parse_drive("jaw:jawOpen", {"most": 20, "bend": -1})
    np.testing.assert_allclose(drive.amount(np.array([0.5, 1.0, -0.5])), [5, 20, -5])
    angle = parse_drive("neck:headTurn", {"most": 15})
    np.testing.assert_allclose(angle.amount(np.array([30.0])), [15])


def test_an_automatic_drive_can_be_taken_away_and_replaced():
    proposed = Study(drives={"chest:jawOpen": parse_drive("chest:jawOpen", {"most": 20})})
    character = rig("x", study=proposed)
    assert [d.most for d in match_targets(character, CastSheet()).drives] == [20]
    assert match_targets(character, parse_sheet({"joints": {"chest:jawOpen": None}})).drives == ()
    other = parse_sheet({"joints": {"chest:jawOpen": {"most": 9}}})
    assert [d.most for d in match_targets(character, other).drives] == [9]
    assert match_targets(character, parse_sheet({"joints": {"tail:jawOpen": {"most": 9}}})).drives[0].joint == "chest"


@pytest.mark.parametrize(
    ("target", "parts", "how"),
    [
        ("AU12_L", {"mouthSmileLeft": 1.0}, "unit"), ("AU12", {"mouthSmileLeft": 0.5, "mouthSmileRight": 0.5}, "unit"),
        ("au_26", {"jawOpen": 0.5}, "unit"), ("AU 01", {"browInnerUp": 1.0}, "unit"),
        ("cheekPuff_L", {"cheekPuff": 1.0}, "split"), ("mouthSmile", {"mouthSmileLeft": 0.5, "mouthSmileRight": 0.5}, "split"),
        ("mouthFunnelUpperLeft", {"mouthFunnel": 1.0}, "split"), ("browInnerUp_R", {"browInnerUp": 1.0}, "split"),
        ("viseme_aa", {"jawOpen": 1.0}, "mixture"), ("v_happy", {"mouthSmileLeft": 0.5, "mouthSmileRight": 0.5}, "mixture"),
        ("kelp_rig_v_aa", {"jawOpen": 1.0}, "mixture"), ("mesh.zz_oh", {"mouthFunnel": 0.8, "jawOpen": 0.3}, "mixture"),
        ("geo:EYE_BLINK_r", {"eyeBlinkRight": 1.0}, "name"),
    ],
)  # fmt: skip
def test_names_of_larger_smaller_and_other_sets(target, parts, how):
    found = match_by_name(target)
    assert (dict(found.parts), found.how) == (parts, how)


@pytest.mark.parametrize(
    "target", ["zorp", "Jaw", "mouth", "AU99", "wobble_L", "tongueless grin", "brow_sad", "one two three four aa", ""]
)
def test_names_that_say_nothing_are_left_alone(target):
    assert match_by_name(target) is None


def test_action_units_are_a_second_naming_of_the_shapes():
    assert UNIT_OF["mouthSmileLeft"] == "AU12L"
    for shape, unit in UNIT_OF.items():
        assert shape in parts_of_unit(unit)


GAINS = st.dictionaries(st.sampled_from(SHAPES), st.floats(-4, 4), max_size=4)
SHEETS = st.fixed_dictionaries(
    {},
    optional={
        "matches": st.dictionaries(st.text(min_size=1, max_size=8), GAINS, max_size=4),
        "combinations": st.just({"c": {"of": ["jawOpen", "cheekPuff"], "by": "least", "gain": 0.5}}),
        "joints": st.just({"jaw:jawOpen": {"axis": [0, 3, 4], "most": 12}, "jaw:jawLeft": None}),
        "wayStrength": st.dictionaries(st.sampled_from(["lips up", "jaw open"]), st.floats(0, 3)),
        "shapeLimit": st.just({"jawOpen": [0, 0.5]}),
        "contacts": st.just({"lips": True, "off": ["lips 12"]}),
        "directions": st.just({"jaw aside": -4.0}),
        "high": st.floats(1, 4),
        "eyes": st.sampled_from(["joints", "shapes"]),
    },
)


@given(SHEETS)
def test_a_sheet_comes_back_from_plain_data(plain):
    sheet = parse_sheet(plain)
    assert parse_sheet(describe_sheet(sheet)) == sheet


@pytest.mark.parametrize(
    "bad",
    [
        {"matches": {"a": {"jawOpen": 9}}}, {"matches": {"a": ["jawOpen"]}}, {"matches": []},
        {"combinations": {"a": {"of": ["jawOpen"]}}}, {"combinations": {"a": {"of": ["jawOpen", "jawOpen"]}}},
        {"combinations": {"a": {"of": ["jawOpen", "cheekPuff"], "by": "sum"}}}, {"joints": {"jaw": {}}},
        {"joints": {"jaw:jawOpen": {"axis": [0, 0, 0]}}}, {"joints": {"jaw:jawOpen": {"most": 999}}},
        {"joints": {"jaw:jawOpen": {"axis": "x"}}}, {"shapeLimit": {"jawOpen": [1, 0]}}, {"shapeLimit": {"jawOpen": 1}},
        {"contacts": {"lips": 1}}, {"contacts": {"off": "all"}}, {"directions": {"jaw aside": 90}}, {"bend": {"jawOpen": 3}},
    ],
)  # fmt: skip
def test_what_a_sheet_may_not_say_is_refused(bad):
    with pytest.raises(InputError):
        parse_sheet(bad)
