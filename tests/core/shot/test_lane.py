"""Clips laid in a shot: what is seen when."""

from dataclasses import replace
from fractions import Fraction as Fr

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


def take(frames=120, rate=Fr(60), seed=1, names=NAMES):
    rng = np.random.default_rng(seed)
    values = np.cumsum(rng.normal(0, 0.02, (frames, len(names))), axis=0).astype(np.float32)
    values[:, [i for i, n in enumerate(names) if n.startswith("head")]] *= 40
    return Channels(names, values, rate)


def whole(channels, start=Fr(0), **more):
    return Placement(start, Fr(0), Fr(channels.frames) / channels.rate, **more)


@pytest.mark.parametrize("rate", [Fr(60), Fr(24), Fr(30000, 1001)])
def test_one_clip_at_its_own_rate_is_the_take_bit_for_bit(rate):
    source = take(rate=rate)
    laid = lay([(whole(source), source)], rate, source.frames)
    assert laid.names == tuple(n for n in laid.names if n in NAMES)
    for name in NAMES:
        np.testing.assert_array_equal(laid.column(name), source.column(name))


def test_a_clip_moved_by_whole_frames_is_the_take_later():
    source = take()
    laid = lay([(whole(source, Fr(30, 60)), source)], Fr(60), 200)
    np.testing.assert_array_equal(laid.column("jawOpen")[30:150], source.column("jawOpen"))


def test_where_no_clip_is_the_face_comes_to_rest():
    source = take()
    laid = lay([(whole(source, Fr(1)), source)], Fr(60), 300)
    away = int(EASE * 60) + 2
    assert not laid.values[: 60 - away].any()
    assert not laid.values[180 + away :].any()
    steps = np.abs(np.diff(laid.column("jawOpen")))
    assert steps.max() < 0.15  # nothing pops at the ends


def test_half_speed_shows_each_frame_twice_as_long():
    source = take()
    laid = lay([(whole(source, speed=Fr(1, 2)), source)], Fr(60), 240)
    np.testing.assert_array_equal(laid.column("jawOpen")[:240:2], source.column("jawOpen"))


def test_repeats_show_the_stretch_again_and_seams_do_not_pop():
    source = take(240)
    placed = Placement(Fr(0), Fr(1), Fr(2), repeats=Fr(3))
    laid = lay([(placed, source)], Fr(60), 180)
    part = source.column("jawOpen")[60:120]
    for n in range(3):
        np.testing.assert_array_equal(laid.column("jawOpen")[60 * n : 60 * n + 60], part)
    hard = np.abs(np.diff(laid.column("headTurn")))[[59, 119]]
    soft = lay([(replace(placed, seam=Fr(1, 2)), source)], Fr(60), 180)
    eased = np.abs(np.diff(soft.column("headTurn")))[[59, 119]]
    assert (eased < hard).all()
    np.testing.assert_array_equal(soft.column("jawOpen")[150:180], part[30:])  # the last pass ends as it is


@given(st.integers(1, 119), st.integers(0, 40), st.sampled_from([Fr(1), Fr(1, 2), Fr(3, 2)]))
def test_split_parts_show_what_the_whole_showed(cut, start, speed):
    source = take()
    placed = whole(source, Fr(start, 60), speed=speed)
    at = placed.start + Fr(cut, 60) / speed
    first, second = placed.split(at)
    frames = int(placed.stop * 60) + 30
    before = lay([(placed, source)], Fr(60), frames)
    after = lay([(first, source), (second, source)], Fr(60), frames)
    np.testing.assert_allclose(after.values, before.values, atol=1e-6)


def test_a_repeated_clip_is_split_between_passes_only():
    placed = Placement(Fr(0), Fr(0), Fr(1), repeats=Fr(3))
    first, second = placed.split(Fr(2))
    assert (first.repeats, second.repeats, second.start) == (2, 1, 2)
    with pytest.raises(InputError, match="between two passes"):
        placed.split(Fr(1, 2))
    with pytest.raises(InputError, match="not within"):
        placed.split(Fr(3))


def test_clips_of_a_lane_that_overlap_go_over_into_each_other():
    one, other = take(seed=1), take(seed=2)
    laid = lay([(whole(one), one), (whole(other, Fr(1)), other)], Fr(60), 180)
    np.testing.assert_array_equal(laid.values[:60], one.values[:60])
    np.testing.assert_array_equal(laid.values[120:], other.values[60:])
    low = np.minimum(one.values[60:120, :2], other.values[:60, :2]) - 1e-6
    high = np.maximum(one.values[60:120, :2], other.values[:60, :2]) + 1e-6
    assert ((laid.values[60:120, :2] >= low) & (laid.values[60:120, :2] <= high)).all()


def test_a_higher_lane_lies_over_a_lower_one_as_far_as_its_weight():
    one, other = take(seed=1), take(seed=2)
    for weight, shown in ((0.0, one), (1.0, other)):
        laid = lay([(whole(one), one), (whole(other, lane=1, weight=Weight(weight)), other)], Fr(60), 120)
        np.testing.assert_array_equal(laid.values, shown.values)
    assert not lay([(whole(one, mute=True), one)], Fr(60), 60).values.any()


def test_takes_without_a_channel_have_it_at_rest():
    one, other = take(names=("jawOpen",)), take(names=("jawOpen", "cheekPuff"))
    laid = lay([(whole(one), one), (whole(other, Fr(2)), other)], Fr(60), 240)
    assert laid.names == ("cheekPuff", "jawOpen")
    assert not laid.column("cheekPuff")[:100].any()


def test_a_take_of_another_rate_is_placed_by_time():
    frames = np.arange(48, dtype=np.float32)[:, None] / 48
    source = Channels(("jawOpen",), frames, Fr(24))
    laid = lay([(whole(source), source)], Fr(60), 120)
    np.testing.assert_allclose(laid.column("jawOpen")[:117], np.arange(117) / 120, atol=1e-5)


@pytest.mark.parametrize(
    ("wrong", "says"),
    [({"speed": Fr(5)}, "speed"), ({"speed": Fr(1, 8)}, "speed"), ({"repeats": Fr(0)}, "repeats"), ({"last": Fr(0)}, "source"),
     ({"first": Fr(-1)}, "source"), ({"fade_in": Fr(99)}, "fade in"), ({"seam": Fr(-1)}, "seam")],
)  # fmt: skip
def test_placements_that_cannot_be_are_refused(wrong, says):
    with pytest.raises(InputError, match=says):
        Placement(**{"start": Fr(0), "first": Fr(0), "last": Fr(1)} | wrong)
