import re
from fractions import Fraction

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from timecode import Timecode as Reference

from dynaface.core.clock.rates import nominal_rate, parse_rate
from dynaface.core.clock.timecode import Timecode, from_seconds, parse_timecode
from dynaface.core.errors import InputError

NTSC = Fraction(30000, 1001)


@pytest.mark.parametrize(
    ("text", "rate"),
    [("60", 60), ("29.97", NTSC), ("30000/1001", NTSC), (23.976, Fraction(24000, 1001)), ("59.94", 2 * NTSC)],
)
def test_rates_are_read(text, rate):
    assert parse_rate(text) == rate


# Short texts and numbers of which an endless integer, or none, would be made.
BEYOND = [
    "1e99999999",
    "6e1",
    "9" * 400,
    "1/" + "9" * 400,
    "nan",
    "٦٠",
    float("inf"),
    -1.0,
    True,
    None,
    5e-324,
    10**400,
]


@pytest.mark.parametrize("text", ["", "0", "-24", "fast", "1/0", "5000", *BEYOND])
def test_rates_that_are_none_are_refused(text):
    with pytest.raises(InputError, match="frame rate"):
        parse_rate(text)


@given(st.integers(0, 24 * 3600 * 30 - 3000))
def test_drop_frame_labels_agree_with_the_reference(frame):
    ours = str(Timecode(frame, NTSC, drop=True))
    assert ours == str(Reference("29.97", frames=frame + 1))
    assert parse_timecode(ours, NTSC).frames == frame


@given(st.integers(0, 24 * 3600 * 60 - 1), st.sampled_from([24, 25, 30, 60]))
def test_labels_come_back(frame, rate):
    frame %= 24 * 3600 * rate
    label = str(Timecode(frame, Fraction(rate)))
    assert parse_timecode(label, Fraction(rate)).frames == frame


COUNTED = ("23.976", "24", "25", "29.97", "30", "47.95", "48", "50", "59.94", "60", "100", "119.88", "120", "240")


@pytest.mark.parametrize("rate", COUNTED)
@pytest.mark.parametrize("drop", [False, True])
def test_labels_of_a_whole_day_agree_with_the_reference(rate, drop):
    fps = parse_rate(rate)
    assert abs(float(fps) - float(rate)) < 0.003
    if drop and rate not in ("29.97", "59.94"):
        return
    base = round(float(rate))
    minutes = np.arange(24 * 60 - 1)[:, None] * base * 60
    # About each minute, where labels are left out, and at moments that no round number meets.
    frames = np.unique(np.concatenate([(minutes + [0, 1, base - 1]).ravel(), np.arange(0, minutes.max(), 99_991)]))
    frames = frames[frames < (24 * 3600 * base * (0.999 if drop else 1))]
    for frame in frames.tolist():
        ours = str(Timecode(frame, fps, drop=drop))
        reference = Reference(rate if drop else str(base), frames=frame + 1)
        assert [int(n) for n in re.split("[:;]", ours)] == [
            reference.hrs,
            reference.mins,
            reference.secs,
            reference.frs,
        ]
        assert parse_timecode(ours, fps).frames == frame


def test_one_moment_in_two_rates():
    moment = parse_timecode("10:00:00:34", Fraction(60)).seconds
    assert str(from_seconds(moment, Fraction(120))) == "10:00:00:068"
    at_24 = from_seconds(moment, Fraction(24))
    assert str(at_24) == "10:00:00:13"
    assert at_24.fraction == pytest.approx(0.6)


def test_a_remainder_below_a_frame_is_kept():
    assert parse_timecode("00:00:01:15.500", Fraction(30)).seconds == pytest.approx(1.5 + 0.5 / 30)


@pytest.mark.parametrize("text", ["1:2:3", "00:61:00:00", "00:00:00:30", "aa:bb:cc:dd", "00:01:00;00", ""])
def test_labels_that_are_none_are_refused(text):
    with pytest.raises(InputError):
        parse_timecode(text, NTSC)


@pytest.mark.parametrize("rate", [24, 25, 30, 50, 60, 120])
def test_the_nominal_rate_of_a_shaky_clock(rate):
    rng = np.random.default_rng(rate)
    times = np.sort(np.arange(400) / rate + rng.normal(0, 0.1 / rate, 400))
    assert nominal_rate(np.delete(times, [40, 41, 200])) == rate


@pytest.mark.parametrize("step", [5e-324, 1e-300, 1e300])
def test_time_stamps_that_are_no_times_are_refused(step):
    with pytest.raises(InputError, match="no frame rate"):
        nominal_rate(np.array([0, step, 2 * step]))
