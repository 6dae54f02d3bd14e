"""A motion as channels of the character's rig, and back; layers on them."""

from dataclasses import replace
from fractions import Fraction

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from dynaface.assets import ASSETS
from dynaface.core.body.rotations import about, multiply
from dynaface.core.cast.apply import apply_sheet, cast_channels, limited
from dynaface.core.cast.rig_curves import channels_of, rig_curves, with_rig_curves
from dynaface.core.cast.sheet import CastSheet, parse_sheet
from dynaface.core.curves.channels import Channels
from dynaface.core.curves.keys import Key
from dynaface.core.errors import InputError
from dynaface.core.layers.layer import Layer, apply_layer
from dynaface.core.layers.span import Span
from dynaface.core.layers.weight import Weight
from dynaface.core.shapes.rig import in_order, range_of, rig_channel, slide_channels, target_channel, turn_channels
from dynaface.core.shapes.standard import HEAD_ANGLES, SHAPES
from dynaface.formats.gltf.character import read_character

RATE = Fraction(60)
FRAMES = 60
ODILE = read_character((ASSETS / "characters/odile.glb").read_bytes())
SHEET = parse_sheet(
    {"joints": {"head:jawOpen": {"moves": "turn", "axis": [1, 2, 0], "most": 25},
                "neck:cheekPuff": {"moves": "shift", "axis": [0, 0, 1], "most": 0.02}}}
)  # fmt: skip
ANGLE = st.floats(-70, 70)


def cast():
    at = np.arange(FRAMES)[:, None]
    values = (0.5 + 0.5 * np.sin(at / 9 + np.arange(len(SHAPES) + 3))).astype(np.float32)
    return cast_channels(Channels((*SHAPES, *HEAD_ANGLES), values, RATE), ODILE, SHEET)


def same(one, other):
    alike = np.array_equal(one.weights, other.weights)
    return alike and all(np.array_equal(one.turns[j], other.turns[j]) for j in one.turns)


@pytest.mark.parametrize("name", ["target brow raise L", "joint left eye turn x", "joint jaw:1 slide z"])
def test_a_name_says_what_it_is_of(name):
    found = rig_channel(name)
    assert found is not None
    made = {"target": (target_channel(found.of),), "turn": turn_channels(found.of), "slide": slide_channels(found.of)}
    assert name in made[found.part]


@pytest.mark.parametrize(
    "name", ["jawOpen", "target ", "joint head", "joint head turn", "joint head turn w", "joint  x"]
)
def test_other_names_are_of_no_rig(name):
    assert rig_channel(name) is None


def test_channels_of_a_rig_stand_behind_the_standard_ones_and_have_ranges_of_their_own():
    assert in_order(["joint head turn x", "target a", "jawOpen"]) == ("jawOpen", "joint head turn x", "target a")
    assert [range_of(n) for n in ("target a", "joint head turn x", "joint head slide x", "headTurn")] == [1, 30, 10, 30]
    assert len(set(channels_of(ODILE))) == len(ODILE.targets) + 6 * len(ODILE.skeleton.names) + 3 * 4


def test_there_and_back_is_the_motion_itself():
    made = cast()
    back = with_rig_curves(made, rig_curves(made, channels_of(ODILE), RATE), ODILE)
    own = [back.targets.index(t) for t in made.targets]
    assert np.array_equal(back.weights[:, own], made.weights)
    for joint in made.turns:
        assert np.abs((back.turns[joint] * made.turns[joint]).sum(axis=1)) == pytest.approx(1, abs=1e-9)
    for joint in made.shifts:
        assert back.shifts[joint] == pytest.approx(np.asarray(made.shifts[joint]), abs=1e-7)


def test_what_curves_do_not_name_stays_bit_for_bit_and_what_the_rig_lacks_is_left_out():
    made = cast()
    strange = Channels(("joint tail turn x", "target whiskers"), np.ones((FRAMES, 2), np.float32), RATE)
    assert same(with_rig_curves(made, strange, ODILE), made)


@given(ANGLE, ANGLE, ANGLE)
def test_angles_of_a_joint_are_right_handed_in_its_own_frame(x, y, z):
    turns = [about(axis, np.full(FRAMES, angle)) for axis, angle in (("y", y), ("x", x), ("z", z))]
    curves = Channels(turn_channels("head"), np.tile([y, x, z], (FRAMES, 1)).astype(np.float32), RATE)
    made = with_rig_curves(cast(), curves, ODILE).turns["head"]
    wanted = multiply(multiply(turns[0], turns[1]), turns[2])
    assert np.abs((made * wanted).sum(axis=1)) == pytest.approx(1, abs=1e-6)


@given(st.floats(-60, 60), st.floats(-60, 60), st.sampled_from([0.25, 0.5, 1.0]))
def test_layers_turn_a_joint_one_on_top_of_the_other(below, above, weight):
    joint = turn_channels("head")
    rest = Channels(joint, np.zeros((FRAMES, 3), np.float32), RATE)
    first = Layer("add", keys={joint[1]: (Key(0, below),)})
    second = Layer("add", weight=Weight(weight), keys={joint[0]: (Key(0, above),)})
    curves = apply_layer(apply_layer(rest, first), second)
    made = with_rig_curves(replace(cast(), turns={}), curves, ODILE).turns["head"]
    wanted = multiply(about("x", np.full(FRAMES, below)), about("y", np.full(FRAMES, above * weight)))
    assert np.abs((made * wanted).sum(axis=1)) == pytest.approx(1, abs=1e-6)


def test_weight_0_is_identity_and_weight_1_of_replace_is_the_layer():
    names = ("joint head turn x", "joint head turn y", "joint head turn z", "target jawOpen")
    beneath = rig_curves(cast(), names, RATE)
    keys = {"target jawOpen": (Key(0, 0.8),), "joint head turn x": (Key(0, 12.0),)}
    for kind in ("add", "replace", "scale"):
        none = apply_layer(beneath, Layer(kind, weight=Weight(0.0), keys=keys))
        assert np.array_equal(none.values, beneath.values)
    whole = apply_layer(beneath, Layer("replace", keys=keys))
    assert whole.column("target jawOpen") == pytest.approx(0.8)
    assert whole.column("joint head turn x") == pytest.approx(12)
    assert whole.column("joint head turn y") == pytest.approx(beneath.column("joint head turn y"), abs=1e-4)


def test_limits_come_last_and_once():
    sheet = CastSheet(low=0.0, high=1.0)
    made = cast()
    curves = rig_curves(made, ("target jawOpen",), RATE)
    up = apply_layer(curves, Layer("add", keys={"target jawOpen": (Key(0, 5.0),)}))
    down = apply_layer(up, Layer("add", keys={"target jawOpen": (Key(0, -5.0),)}))
    column = made.targets.index("jawOpen")
    assert limited(with_rig_curves(made, up, ODILE), sheet).weights[:, column].max() == 1.0
    back = limited(with_rig_curves(made, down, ODILE), sheet).weights
    assert back == pytest.approx(limited(made, sheet).weights, abs=1e-6)


def test_limiting_the_free_cast_is_what_a_sheet_gives():
    at = np.linspace(0, 1.4, FRAMES)[:, None].astype(np.float32)
    channels = Channels(("jawOpen",), at, RATE)
    one, other = limited(cast_channels(channels, ODILE, SHEET), SHEET), apply_sheet(channels, ODILE, SHEET)
    assert same(one, other)
    assert one.weights.max() == SHEET.high


def test_a_span_refuses_what_is_no_channel_and_what_goes_too_far():
    Span(0, 9, offset={"joint head turn x": 90.0, "joint head slide y": -40.0, "target a": 1.5})
    for offset in ({"target": 0.1}, {"target a": 3.0}, {"joint head slide x": 500.0}):
        with pytest.raises(InputError):
            Span(0, 9, offset=offset)
