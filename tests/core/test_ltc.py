"""Linear timecode in a sound: known answers at all rates, at any level, polarity, speed and noise; and none where there is none."""

from fractions import Fraction

import numpy as np
import pytest

from dynaface.core.clock.timecode import RunningCount, Timecode, parse_timecode
from dynaface.core.sound.ltc import RATES, count_at_start, count_of, frames_of
from dynaface.core.sound.sound import Sound
from dynaface.sims.ltc import bits_of, ltc

RATE = 48_000


def heard(samples, rate=RATE):
    return count_of(
        Sound(np.asarray(samples, np.float32).reshape(len(samples), 1 if np.ndim(samples) == 1 else 2), rate)
    )


def off(found, start):
    """Frames between the counts."""
    return abs(found.frames + found.fraction - start.frames - start.fraction)


@pytest.mark.parametrize("rate", RATES)
@pytest.mark.parametrize("samples", [44_100, 48_000, 96_000])
def test_the_count_is_right_to_a_hundredth_of_a_frame(rate, samples):
    start = Timecode(parse_timecode("10:14:22:17", rate).frames, rate, 0.4)
    channel, found = heard(ltc(start, 4, samples), samples)
    assert (channel, found.rate, found.drop) == (0, rate, False)
    assert off(found, start) < 0.01


def test_labels_that_are_dropped_are_counted():
    rate = Fraction(30000, 1001)
    start = parse_timecode("00:09:59;20", rate)
    _, found = heard(ltc(start, 3, RATE))
    assert found.drop
    assert str(found) == "00:09:59;20"


def test_a_count_that_passes_midnight_is_of_the_day_before():
    start = parse_timecode("23:59:59:00", Fraction(25))
    _, found = heard(ltc(start, 3, RATE))
    assert str(found) == "23:59:59:00"


@pytest.mark.parametrize(
    "change", [{"level": 0.02}, {"inverted": True}, {"noise": 0.05}, {"level": 0.1, "noise": 0.01}]
)
def test_level_polarity_and_noise_change_nothing(change):
    start = parse_timecode("01:02:03:04", Fraction(25))
    _, found = heard(ltc(start, 4, RATE, **change))
    assert off(found, start) < 0.02


def test_a_recorder_that_runs_a_little_off_is_heard():
    start = parse_timecode("01:02:03:04", Fraction(25))
    _, found = heard(ltc(start, 4, RATE, speed=1.0001))
    assert (str(found), found.rate) == ("01:02:03:04", Fraction(25))


def test_it_is_found_beside_a_voice_and_where_it_begins_late_or_drops_out():
    start = parse_timecode("15:00:00:00", Fraction(24))
    code = ltc(start, 6, RATE)
    code[: RATE // 2] = 0
    code[3 * RATE : 3 * RATE + 9000] = 0
    voice = np.random.default_rng(1).normal(0, 0.1, len(code))
    channel, found = heard(np.stack([voice, code], axis=1))
    assert channel == 1
    assert off(found, start) < 0.01


def test_each_frame_is_heard_where_it_begins():
    start = parse_timecode("01:00:00:00", Fraction(30))
    frames = frames_of(ltc(start, 2, RATE), RATE)
    assert len(frames) >= 58
    for frame in frames:
        assert frame.position == pytest.approx((frame.seconds * 30 + frame.frames) * RATE / 30, abs=1)


@pytest.mark.parametrize("kind", ["silence", "noise", "tone", "square", "short", "nothing"])
def test_what_is_no_timecode_is_none(kind):
    t = np.arange(3 * RATE) / RATE
    sounds = {
        "silence": np.zeros(3 * RATE),
        "noise": np.random.default_rng(2).normal(0, 0.3, 3 * RATE),
        "tone": np.sin(2 * np.pi * 1000 * t),
        "square": np.sign(np.sin(2 * np.pi * 1200 * t)),
        "short": ltc(parse_timecode("01:00:00:00", Fraction(25)), 0.2, RATE),
        "nothing": np.zeros(0),
    }
    assert heard(sounds[kind]) is None


def test_frames_that_do_not_agree_are_no_count():
    start = parse_timecode("01:00:00:00", Fraction(25))
    frames = frames_of(ltc(start, 2, RATE), RATE)
    rng = np.random.default_rng(3)
    assert off(count_at_start(frames, RATE), start) < 0.01
    jumping = [
        type(f)(f.position + rng.uniform(0, 20_000), f.hours, f.minutes, f.seconds, f.frames, f.drop) for f in frames
    ]
    assert count_at_start(jumping, RATE) is None


def test_the_bits_of_a_frame_are_as_the_standard_says():
    bits = bits_of(parse_timecode("12:34:56;18", Fraction(30000, 1001)))
    assert len(bits) == 80
    assert bits.endswith("0011111111111101")
    assert bits[0:4] == "0001"  # 8, the lowest bit first
    assert bits[8:10] == "10"
    assert bits[10] == "1"
    assert bits[56:58] == "10"


def test_a_count_goes_on_and_begins_anew_at_midnight():
    running = RunningCount(parse_timecode("23:59:59:20", Fraction(25)), 100.0)
    assert str(running.at(100.0)) == "23:59:59:20"
    assert str(running.at(99.0)) == "23:59:58:20"
    assert str(running.at(100.4)) == "00:00:00:05"
    dropped = RunningCount(parse_timecode("10:00:00;00", Fraction(30000, 1001)), 0.0)
    assert str(dropped.at(60.06)) == "10:01:00;02"
