"""Recordings of a moment on one ruler: starts by count, exact to a part of a frame, across midnight, at every rate; what overlaps."""

from fractions import Fraction as Fr

import pytest
from hypothesis import given
from hypothesis import strategies as st

from dynaface.core.clock.rates import STANDARD_RATES
from dynaface.core.clock.timecode import Timecode, parse_timecode
from dynaface.core.sync.moment import DAY, apart_from, moment_at, on_grid, seconds_of, starts_by_timecode

RATES = [r for r in STANDARD_RATES if r >= 23]


def code(text, rate):
    return parse_timecode(text, Fr(rate))


def test_the_first_by_count_is_the_beginning_whatever_the_order_and_the_rates():
    starts, first = starts_by_timecode(
        {"phone": code("10:00:02:30", 60), "suit": code("10:00:01:60", 120), "clip": code("10:00:03:12", 24)}
    )
    assert first == "suit"
    assert starts == {"phone": 1, "suit": 0, "clip": 2}


def test_a_remainder_below_a_frame_is_kept():
    starts, _ = starts_by_timecode({"a": code("10:00:00:00", 60), "b": code("10:00:00:30.250", 60)})
    assert starts["b"] == Fr(30250, 60000)


def test_counts_that_pass_midnight_lie_beside_those_before_it():
    starts, first = starts_by_timecode({"late": code("00:00:01:00", 25), "early": code("23:59:58:00", 25)})
    assert first == "early"
    assert starts["late"] == 3


def test_drop_frame_counts_lie_by_real_seconds():
    ten_minutes = Fr(17982) * 1001 / 30000
    starts, _ = starts_by_timecode({"a": code("01:00:00;00", "30000/1001"), "b": code("01:10:00;00", "30000/1001")})
    assert starts["b"] == pytest.approx(float(ten_minutes), abs=1e-9)


def test_nobody_with_a_count_is_no_beginning():
    assert starts_by_timecode({}) == ({}, "")


@given(st.sampled_from(RATES), st.integers(0, 10**6), st.integers(0, 10**6), st.sampled_from(RATES))
def test_the_count_a_while_after_a_moment_is_that_moment(rate, frames, later, other):
    begins = Timecode(frames, rate)
    after = Fr(later, 1) / other
    at = moment_at(begins, after)
    assert 0 <= at.fraction < 1
    off = (seconds_of(at) - seconds_of(begins) - after) % DAY
    assert min(off, DAY - off) < 1e-6
    assert at.rate == rate


def test_the_count_begins_anew_at_midnight():
    assert str(moment_at(code("23:59:59:12", 24), Fr(1))) == "00:00:00:12"


def test_recordings_without_a_moment_in_common_are_named_on_both_sides():
    spans = {"a": (Fr(0), Fr(5)), "b": (Fr(4), Fr(9)), "c": (Fr(5), Fr(6))}
    assert apart_from(spans) == {"a": ("c",), "b": (), "c": ("a",)}


@given(st.sampled_from(RATES), st.fractions(-90_000, 90_000), st.lists(st.integers(-(10**6), 10**6), max_size=6))
def test_starts_on_the_grid_stay_short_fractions_however_often_they_are_moved(rate, seconds, moves):
    at = on_grid(seconds, rate)
    assert abs(at - seconds) <= 1 / rate / 2000
    for parts in moves:
        at += Fr(parts, 1000) / rate
    assert on_grid(at, rate) == at
    assert at.denominator < 10**9
