"""Clips laid in a shot: what is seen when."""

from dataclasses import replace
from fractions import Fraction as F

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from dynaface.core.curves.channels import Channels
from dynaface.core.errors import InputError
from dynaface.core.layers.weight import Weight
from dynaface.core.shot.lane import EASE, lay
from dynaface.core.shot.placement import Placement

NAMES = ("eyeBlinkLeft", "jawOpen", "headTurn", "headNod", "headTilt")


def take(frames=120, rate=F(60), seed=1, names=NAMES):
    rng = np.random.default_rng(seed)
    values = np.cumsum(rng.normal(0, 0.02, (frames, len(names))), axis=0).astype(np.float32)
    values[:, [i for i, n in enumerate(names) if n.startswith("head")]] *= 40
    return Channels(names, values, rate)


def whole(channels, start=F(0), **more):
    return Placement(start, F(0), F(channels.frames) / channels.rate, **more)


@pytest.mark.parametrize("rate", [F(60), F(24), F(30000, 1001)])
def test_one_clip_at_its_own_rate_is_the_take_bit_for_bit(rate):
    source = take(rate=rate)
    laid = lay([(whole(source), source)], rate, source.frames)
    assert laid.names == tuple(n for n in laid.names if n in NAMES)
    for name in NAMES:
        np.testing.assert_array_equal(laid.column(name), source.column(name))


def test_a_clip_moved_by_whole_frames_is_the_take_later():
    source = take()
    laid = lay([(whole(source, F(30, 60)), source)], F(60), 200)
    np.testing.assert_array_equal(laid.column("jawOpen")[30:150], source.column("jawOpen"))


def test_where_no_clip_is_the_face_comes_to_rest():
    source = take()
    laid = lay([(whole(source, F(1)), source)], F(60), 300)
    away = int(EASE * 60) + 2
    assert not laid.values[: 60 - away].any()
    assert not laid.values[180 + away :].any()
    steps = np.abs(np.diff(laid.column("jawOpen")))
    assert steps.max() < 0.15  # nothing pops at the ends


def test_half_speed_shows_each_frame_twice_as_long():
    source = take()
    laid = lay([(whole(source, speed=F(1, 2)), source)], F(60), 240)
    np.testing.assert_array_equal(laid.column("jawOpen")[:240:2], source.column("jawOpen"))


def test_repeats_show_the_stretch_again_and_seams_do_not_pop():
    source = take(240)
    placed = Placement(F(0), F(1), F(2), repeats=F(3))
    laid = lay([(placed, source)], F(60), 180)
    part = source.column("jawOpen")[60:120]
    for n in range(3):
        np.testing.assert_array_equal(laid.column("jawOpen")[60 * n : 60 * n + 60], part)
    hard = np.abs(np.diff(laid.column("headTurn")))[[59, 119]]
    soft = lay([(replace(placed, seam=F(1, 2)), source)], F(60), 180)
    eased = np.abs(np.diff(soft.column("headTurn")))[[59, 119]]
    assert (eased < hard).all()
    np.testing.assert_array_equal(soft.column("jawOpen")[150:180], part[30:])  # the last pass ends as it is


@given(st.integers(1, 119), st.integers(0, 40), st.sampled_from([F(1), F(1, 2), F(3, 2)]))
def test_split_parts_show_what_the_whole_showed(cut, start, speed):
    source = take()
    placed = whole(source, F(start, 60), speed=speed)
    at = placed.start + F(cut, 60) / speed
    first, second = placed.split(at)
    frames = int(placed.stop * 60) + 30
    before = lay([(placed, source)], F(60), frames)
    after = lay([(first, source), (second, source)], F(60), frames)
    np.testing.assert_allclose(after.values, before.values, atol=1e-6)


def test_a_repeated_clip_is_split_between_passes_only():
    placed = Placement(F(0), F(0), F(1), repeats=F(3))
    first, second = placed.split(F(2))
    assert (first.repeats, second.repeats, second.start) == (2, 1, 2)
    with pytest.raises(InputError, match="between two passes"):
        placed.split(F(1, 2))
    with pytest.raises(InputError, match="not within"):
        placed.split(F(3))


def test_clips_of_a_lane_that_overlap_go_over_into_each_other():
    one, other = take(seed=1), take(seed=2)
    laid = lay([(whole(one), one), (whole(other, F(1)), other)], F(60), 180)
    np.testing.assert_array_equal(laid.values[:60], one.values[:60])
    np.testing.assert_array_equal(laid.values[120:], other.values[60:])
    low = np.minimum(one.values[60:120, :2], other.values[:60, :2]) - 1e-6
    high = np.maximum(one.values[60:120, :2], other.values[:60, :2]) + 1e-6
    assert ((laid.values[60:120, :2] >= low) & (laid.values[60:120, :2] <= high)).all()


def test_a_higher_lane_lies_over_a_lower_one_as_far_as_its_weight():
    one, other = take(seed=1), take(seed=2)
    for weight, shown in ((0.0, one), (1.0, other)):
        laid = lay([(whole(one), one), (whole(other, lane=1, weight=Weight(weight)), other)], F(60), 120)
        np.testing.assert_array_equal(laid.values, shown.values)
    assert not lay([(whole(one, mute=True), one)], F(60), 60).values.any()


def test_takes_without_a_channel_have_it_at_rest():
    one, other = take(names=("jawOpen",)), take(names=("jawOpen", "cheekPuff"))
    laid = lay([(whole(one), one), (whole(other, F(2)), other)], F(60), 240)
    assert laid.names == ("cheekPuff", "jawOpen")
    assert not laid.column("cheekPuff")[:100].any()


def test_a_take_of_another_rate_is_placed_by_time():
    frames = np.arange(48, dtype=np.float32)[:, None] / 48
    source = Channels(("jawOpen",), frames, F(24))
    laid = lay([(whole(source), source)], F(60), 120)
    np.testing.assert_allclose(laid.column("jawOpen")[:117], np.arange(117) / 120, atol=1e-5)


@pytest.mark.parametrize(
    ("wrong", "says"),
    [({"speed": F(5)}, "speed"), ({"speed": F(1, 8)}, "speed"), ({"repeats": F(0)}, "repeats"), ({"last": F(0)}, "source"),
     ({"first": F(-1)}, "source"), ({"fade_in": F(99)}, "fade in"), ({"seam": F(-1)}, "seam")],
)  # fmt: skip
def test_placements_that_cannot_be_are_refused(wrong, says):
    with pytest.raises(InputError, match=says):
        Placement(**{"start": F(0), "first": F(0), "last": F(1)} | wrong)
