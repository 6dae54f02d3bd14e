"""The layer of what came back: on what was handed over it gives what came back, and elsewhere it does nothing."""

from fractions import Fraction

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from dynaface.core.body.rotations import about, inverse, multiply
from dynaface.core.cast.rig_curves import joint_turn
from dynaface.core.layers.layer import apply_layer
from dynaface.core.returns.brought import Brought, turned_by
from dynaface.core.returns.compare import differences
from dynaface.core.returns.put_right import put_right
from dynaface.core.returns.returned_layer import Axes, Clock, beneath_of, described, returned_layer
from dynaface.core.shapes.rig import turn_channels

FRAMES, RATE = 200, Fraction(30)
REST = about("y", np.float64(40.0))
ONE = np.array([0, 0, 0, 1.0])


def base(seed=1):
    rng = np.random.default_rng(seed)
    at = np.arange(FRAMES)[:, None] / 30
    waves = 0.5 + 0.4 * np.sin(at * rng.uniform(1, 6, 4) + rng.uniform(0, 6, 4))
    arm = multiply(REST, multiply(about("y", 60 * waves[:, 2]), about("x", 70 * waves[:, 3] - 20)))
    return Brought(
        FRAMES, RATE, {"smile": waves[:, 0], "jaw": waves[:, 1]},
        {"hips": np.tile(ONE, (FRAMES, 1)), "arm": arm},
        {"hips": np.concatenate([at, 0 * at, 0 * at], axis=1), "arm": np.tile([0.2, 0.4, 0], (FRAMES, 1))},
        {"arm": "hips"}, rest={"hips": ONE, "arm": REST},
    )  # fmt: skip


def bump(first, last):
    at = np.arange(FRAMES)
    return np.where((at >= first) & (at <= last), np.sin(np.pi * (at - first + 1) / (last - first + 2)), 0.0)


def changed(was, first=60, last=90, turn=50.0):
    by = bump(first, last)
    arm = multiply(was.turns["arm"], about("z", turn * by))
    return Brought(
        FRAMES, RATE, {**was.curves, "smile": was.curves["smile"] + 0.3 * by}, {**was.turns, "arm": arm},
        {**was.places, "hips": was.places["hips"] + by[:, None] * [0, 0.1, 0]}, was.above, rest=was.rest,
    )  # fmt: skip


def layered(was, edited):
    righted = put_right(edited, was)
    found = differences(righted)
    clock = Clock(righted.at, was.rate, 0.0, was.rate, was.frames)
    beneath = beneath_of(was, found, Axes(was.rest))
    layer = returned_layer(found, clock, beneath, Axes(was.rest))
    return layer, beneath, apply_layer(beneath, layer)


def turned(channels):
    y, x, z = (channels.column(n).astype(np.float64) for n in turn_channels("arm"))
    return multiply(REST, joint_turn(y, x, z))


@settings(max_examples=15, deadline=None)
@given(st.integers(1, 50), st.integers(0, 150), st.integers(0, 49), st.floats(5, 170))
def test_with_it_what_was_handed_over_is_what_came_back(seed, first, length, turn):
    was = base(seed)
    edited = changed(was, first, first + length, turn)
    _, _, made = layered(was, edited)
    np.testing.assert_allclose(made.column("target smile"), edited.curves["smile"], atol=2e-3)
    assert turned_by(turned(made), edited.turns["arm"]).max() < 0.1
    lifted = made.column("joint hips slide y") / 1000
    np.testing.assert_allclose(lifted, edited.places["hips"][:, 1] - was.places["hips"][:, 1], atol=1e-3)


def test_it_holds_what_is_different_and_nothing_else():
    was = base()
    layer, beneath, made = layered(was, changed(was))
    assert set(layer.channels) == {"target smile", *turn_channels("arm"), *(f"joint hips slide {a}" for a in "xyz")}
    assert {(s.first, s.last) for s in layer.spans} == {(60, 90)}
    outside = np.r_[0:52, 99:FRAMES]
    np.testing.assert_array_equal(made.values[outside], beneath.values[outside])


def test_unchanged_it_is_empty():
    layer, _, _ = layered(base(), base())
    assert layer.spans == ()


def test_where_it_does_nothing_what_lies_beneath_stays_live():
    was = base()
    layer, beneath, _ = layered(was, changed(was))
    other = beneath.with_values(beneath.values + np.float32(0.1))
    made = apply_layer(other, layer)
    np.testing.assert_array_equal(made.values[:50], other.values[:50])
    smile = made.column("target smile")
    np.testing.assert_allclose(smile[60:91], changed(was).curves["smile"][60:91], atol=2e-3)
    assert np.abs(np.diff(smile)).max() < 0.08, "it comes and goes without a step"


def test_parts_that_change_at_other_times_have_spans_of_their_own():
    was = base()
    edited = changed(was)
    curves = {**edited.curves, "jaw": was.curves["jaw"] + 0.2 * bump(120, 140) + 0.2 * bump(160, 170)}
    edited = Brought(FRAMES, RATE, curves, edited.turns, edited.places, was.above, rest=was.rest)
    layer, _, made = layered(was, edited)
    assert [(s.first, s.last) for s in layer.spans] == [(60, 90), (120, 140), (160, 170)]
    np.testing.assert_allclose(made.column("target jaw"), curves["jaw"], atol=2e-3)


def test_on_a_clock_of_its_own_it_lies_at_the_same_moments():
    was, found = base(), differences(put_right(changed(base()), base()))
    clock = Clock(np.arange(FRAMES, dtype=float), RATE, 2.0, Fraction(60), 600)
    wide = beneath_of(was, found, Axes(was.rest))
    beneath = wide.with_values(wide.values)
    at = np.clip((np.arange(600) / 60 - 2.0) * 30, 0, FRAMES - 1)
    values = np.stack([np.interp(at, np.arange(FRAMES), v) for v in wide.values.T], axis=1)
    beneath = type(wide)(wide.names, values.astype(np.float32), Fraction(60))
    layer = returned_layer(found, clock, beneath, Axes(was.rest))
    assert {(s.first, s.last) for s in layer.spans} == {(240, 300)}
    made = apply_layer(beneath, layer).column("target smile")
    np.testing.assert_allclose(made[240:301:2], changed(was).curves["smile"][60:91], atol=2e-3)


def test_turns_of_a_file_with_the_worlds_axes_are_those_of_the_joint():
    """D = G d G^-1 where G is how the joint stands in the world at rest."""
    world = about("x", np.float64(70.0))
    axes = Axes({"arm": REST}, {"arm": world})
    own = multiply(about("z", np.array([10.0, 30.0])), about("y", np.array([5.0, -80.0])))
    seen = multiply(multiply(world, own), inverse(world))
    np.testing.assert_allclose(turned_by(axes.turn("arm", seen), own), 0, atol=1e-5)
    np.testing.assert_allclose(axes.turn("hand", seen), seen)


def test_it_is_described_in_units_of_people():
    was = base()
    righted = put_right(changed(was), was)
    clock = Clock(righted.at, RATE, 0.0, RATE, FRAMES)
    rows = {(d.part, d.of): described(d, clock) for d in differences(righted)}
    assert rows[("place", "hips")]["most"] == pytest.approx(100, rel=0.02)
    assert rows[("place", "hips")]["unit"] == "mm"
    assert rows[("turn", "arm")]["unit"] == "degrees"
    assert rows[("weight", "smile")]["runs"] == [[60, 90]]
    assert rows[("weight", "smile")]["frames"] == 31
