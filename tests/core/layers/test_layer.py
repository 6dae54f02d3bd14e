"""Layers on a performance."""

from dataclasses import replace
from fractions import Fraction as Fr

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from dynaface.core.body.rotations import head_rotation, multiply, slerp
from dynaface.core.curves.channels import Channels
from dynaface.core.curves.keys import Key
from dynaface.core.errors import InputError
from dynaface.core.layers.layer import Layer, apply_layer, weaken_capture, widened
from dynaface.core.layers.span import EASES, Span
from dynaface.core.layers.weight import Weight
from dynaface.core.shapes.standard import HEAD_ANGLES, HEAD_TRAVEL

NAMES = ("jawOpen", "mouthLowerDownLeft", "eyeBlinkLeft", *HEAD_ANGLES)
FRAMES = 120


def beneath(seed=1, gap=False):
    values = np.random.default_rng(seed).random((FRAMES, len(NAMES))).astype(np.float32)
    values[:, 3:] = values[:, 3:] * 40 - 20
    if gap:
        values[40:50, 0] = np.nan
    return Channels(NAMES, values, Fr(60))


def span(first=30, last=60, **more):
    return Span(first, last, **{"offset": {"jawOpen": 0.25}, "lead_in": 8, "lead_out": 12} | more)


KEYED = {"jawOpen": (Key(0, 0.3), Key(60, 0.8)), "headTurn": (Key(0, 10.0), Key(80, 35.0))}


@pytest.mark.parametrize("kind", ["add", "replace", "scale"])
@given(st.integers(1, 9))
def test_weight_0_is_identity(kind, seed):
    channels = beneath(seed, gap=True)
    made = apply_layer(channels, Layer(kind, weight=Weight(0.0), keys=KEYED, spans=(span(),)))
    np.testing.assert_array_equal(made.values, channels.values)


def test_weight_1_of_replace_is_the_layer():
    made = apply_layer(beneath(), Layer("replace", keys={"jawOpen": (Key(0, 0.3), Key(60, 0.8))}))
    assert made.column("jawOpen")[0] == np.float32(0.3)
    assert made.column("jawOpen")[60:].max() == pytest.approx(0.8)
    np.testing.assert_array_equal(made.column("eyeBlinkLeft"), beneath().column("eyeBlinkLeft"))


@given(st.integers(1, 50))
def test_layers_that_add_commute_but_for_the_head(seed):
    one, other = Layer("add", keys={"jawOpen": (Key(0, 0.2),)}, weight=Weight(0.7)), Layer("add", spans=(span(),))
    channels = beneath(seed)
    ab, ba = apply_layer(apply_layer(channels, one), other), apply_layer(apply_layer(channels, other), one)
    np.testing.assert_allclose(ab.values, ba.values, atol=1e-6)


@pytest.mark.parametrize("ease", EASES)
def test_a_span_is_0_outside_whole_inside_and_has_no_step(ease):
    envelope = span(ease=ease).envelope(0, FRAMES)
    assert not envelope[:22].any()
    assert not envelope[73:].any()
    assert (envelope[30:61] == 1).all()
    assert np.abs(np.diff(envelope)).max() < 0.26
    made = apply_layer(beneath(), Layer("add", spans=(span(ease=ease),)))
    np.testing.assert_allclose(made.values[:, 0] - beneath().values[:, 0], 0.25 * envelope, atol=1e-6)


def test_strength_of_a_span_scales_its_offset():
    made = apply_layer(beneath(), Layer("add", spans=(span(strength=1.5),)))
    assert made.values[45, 0] - beneath().values[45, 0] == pytest.approx(0.375, abs=1e-6)


def test_spans_of_a_layer_that_replaces_hold_their_value():
    made = apply_layer(beneath(), Layer("replace", spans=(span(),)))
    np.testing.assert_allclose(made.column("jawOpen")[30:61], 0.25)
    np.testing.assert_array_equal(made.column("jawOpen")[:22], beneath().column("jawOpen")[:22])


def test_spans_of_a_layer_that_scales_are_factors():
    made = apply_layer(beneath(), Layer("scale", spans=(span(offset={"jawOpen": 0.5}),)))
    np.testing.assert_allclose(made.column("jawOpen")[30:61], 0.5 * beneath().column("jawOpen")[30:61], rtol=1e-6)
    np.testing.assert_array_equal(made.column("jawOpen")[80:], beneath().column("jawOpen")[80:])


def test_a_gap_stays_under_what_adds_and_is_filled_by_what_replaces():
    gapped = beneath(gap=True)
    added = apply_layer(gapped, Layer("add", keys={"jawOpen": (Key(0, 0.1),)}))
    filled = apply_layer(gapped, Layer("replace", keys={"jawOpen": (Key(0, 0.1),)}, weight=Weight(0.5)))
    assert np.isnan(added.column("jawOpen")[40:50]).all()
    np.testing.assert_allclose(filled.column("jawOpen")[40:50], 0.1)


def test_head_offsets_turn_on_the_local_side_by_slerp():
    channels = beneath()
    layer = Layer("add", keys={"headTurn": (Key(0, 30.0),), "headTilt": (Key(0, -10.0),)}, weight=Weight(0.5))
    made = apply_layer(channels, layer)
    head = head_rotation(*(channels.column(n).astype(np.float64) for n in HEAD_ANGLES))
    half = slerp(np.array([0.0, 0, 0, 1]), head_rotation(np.array(30.0), np.array(0.0), np.array(-10.0)), 0.5)
    found = head_rotation(*(made.column(n).astype(np.float64) for n in HEAD_ANGLES))
    assert np.abs(np.sum(multiply(head, half) * found, axis=1)).min() > 1 - 1e-6


def test_regions_and_channels_out_of_reach_stay():
    made = apply_layer(
        beneath(), Layer("add", regions=frozenset({"lids"}), keys=KEYED | {"eyeBlinkLeft": (Key(0, 0.2),)})
    )
    np.testing.assert_array_equal(made.values[:, [0, 1, 3, 4, 5]], beneath().values[:, [0, 1, 3, 4, 5]])
    np.testing.assert_allclose(made.values[:, 2], beneath().values[:, 2] + 0.2, rtol=1e-6)


def test_a_channel_that_was_not_there_begins_at_rest():
    made = apply_layer(beneath(), Layer("add", spans=(span(offset={"cheekPuff": 0.4}),)))
    assert made.column("cheekPuff")[45] == pytest.approx(0.4)
    assert made.column("cheekPuff")[0] == 0


def test_the_weight_of_a_layer_is_keyed_over_time():
    ramp = Weight(keys=(Key(0, 0.0, kind="linear"), Key(100, 1.0, kind="linear")))
    made = apply_layer(beneath(), Layer("replace", keys={"jawOpen": (Key(0, 0.5),)}, weight=ramp))
    expected = beneath().values[:, 0] * (1 - ramp.at(FRAMES)) + 0.5 * ramp.at(FRAMES)
    np.testing.assert_allclose(made.column("jawOpen"), expected, atol=1e-6)


def test_the_capture_is_weakened_by_region_and_the_head_toward_rest():
    made = weaken_capture(beneath(), {"jaw": Weight(0.5), "head": Weight(0.0), "lids": Weight(1.0)})
    np.testing.assert_allclose(made.column("jawOpen"), 0.5 * beneath().column("jawOpen"), rtol=1e-6)
    np.testing.assert_array_equal(made.column("eyeBlinkLeft"), beneath().column("eyeBlinkLeft"))
    assert np.abs(made.values[:, 3:]).max() < 1e-4
    strong = weaken_capture(beneath(), {"jaw": Weight(1.5)})
    np.testing.assert_allclose(strong.column("jawOpen"), 1.5 * beneath().column("jawOpen"), rtol=1e-6)
    assert weaken_capture(beneath(), {"jaw": Weight()}).values.tobytes() == beneath().values.tobytes()


def test_how_far_the_head_went_and_how_it_turned_are_weakened_each_by_itself():
    went = widened(beneath(), HEAD_TRAVEL)
    went = went.with_values(np.where(np.isin(went.names, HEAD_TRAVEL), np.float32(30), went.values))
    less = weaken_capture(went, {"travel": Weight(0.5)})
    assert all((less.column(n) == 15).all() for n in HEAD_TRAVEL)
    np.testing.assert_array_equal(less.column("headTurn"), went.column("headTurn"))
    still = weaken_capture(went, {"head": Weight(0.0)})
    assert all((still.column(n) == 30).all() for n in HEAD_TRAVEL)
    assert np.abs(still.column("headTurn")).max() < 1e-4


@pytest.mark.parametrize(
    ("wrong", "says"),
    [({"last": 10}, "ends at"), ({"lead_in": -1}, "leadIn"), ({"strength": 2}, "strength"), ({"ease": "bounce"}, "ease"),
     ({"offset": {"nose": 1}}, "channel"), ({"offset": {"jawOpen": 9}}, "jawOpen")],
)  # fmt: skip
def test_spans_that_cannot_be_are_refused(wrong, says):
    with pytest.raises(InputError, match=says):
        span(**wrong)
    with pytest.raises(InputError, match="weight"):
        Weight(1.6)


def test_layers_with_nothing_in_them_give_back_what_they_were_given():
    channels = beneath()
    assert apply_layer(channels, Layer("add")) is channels
    empty = replace(channels, values=channels.values[:0])
    assert apply_layer(empty, Layer("replace", keys=KEYED)) is empty


def curved(kind="replace", **more):
    keys = {"jawOpen": (Key(0, 0.9, kind="linear"), Key(30, 0.1, kind="linear"))}
    return Layer(kind, spans=(span(offset={}, curves=keys, origin=30.0, **more),))


def test_a_span_with_a_curve_stands_in_its_place_where_it_holds_and_nowhere_else():
    made, was = apply_layer(beneath(), curved()), beneath()
    np.testing.assert_allclose(made.column("jawOpen")[30:61], np.linspace(0.9, 0.1, 31), atol=1e-6)
    outside = np.r_[0:21, 74:FRAMES]
    np.testing.assert_array_equal(made.values[outside], was.values[outside])
    np.testing.assert_array_equal(made.column("eyeBlinkLeft"), was.column("eyeBlinkLeft"))


def test_a_span_whose_curve_is_what_lies_beneath_changes_nothing_where_it_comes_and_goes():
    was = beneath()
    keys = {"jawOpen": tuple(Key(f, float(v), kind="linear") for f, v in enumerate(was.column("jawOpen")))}
    made = apply_layer(was, Layer("replace", spans=(span(offset={}, curves=keys),)))
    np.testing.assert_allclose(made.values, was.values, atol=1e-6)


def test_a_curve_moves_with_the_origin_of_its_span():
    later = curved()
    later = replace(later, spans=(replace(later.spans[0], first=40, last=70, origin=40.0),))
    one, other = apply_layer(beneath(), curved()), apply_layer(beneath(), later)
    np.testing.assert_allclose(other.column("jawOpen")[40:71], one.column("jawOpen")[30:61], atol=1e-6)
    assert later.key != curved().key


def test_a_curve_of_a_layer_that_adds_is_added_by_its_strength():
    made = apply_layer(beneath(), curved("add", strength=0.5))
    apart = made.column("jawOpen")[30:61] - beneath().column("jawOpen")[30:61]
    np.testing.assert_allclose(apart, np.linspace(0.45, 0.05, 31), atol=1e-6)


def test_a_curve_of_an_unknown_channel_is_refused():
    with pytest.raises(InputError, match="jawWide"):
        span(offset={}, curves={"jawWide": (Key(0, 0.1),)})
