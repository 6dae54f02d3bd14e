"""Recordings of one moment by their timecodes, also where the count began anew between them."""

from fractions import Fraction

import pytest

from dynaface.core.clock.timecode import parse_timecode
from dynaface.core.sync.timecode_offset import timecode_offset


@pytest.mark.parametrize(
    ("face", "body", "seconds"),
    [
        ("10:00:02:00", "10:00:00:00", 2.0), ("23:59:50:00", "00:00:05:00", -15.0), ("00:00:05:00", "23:59:50:00", 15.0),
        ("00:00:00:00", "23:59:59:30", 0.5), ("06:00:00:00", "17:00:00:00", -39600.0),
    ],
)  # fmt: skip
def test_of_all_days_the_nearest_are_taken(face, body, seconds):
    assert timecode_offset(parse_timecode(face, Fraction(60)), parse_timecode(body, Fraction(60))) == pytest.approx(
        seconds
    )


def test_without_a_timecode_nothing_is_known():
    assert timecode_offset(None, parse_timecode("10:00:00:00", Fraction(60))) is None
    assert timecode_offset(parse_timecode("10:00:00:00", Fraction(60)), None) is None
