"""Recordings of one moment on one clock."""

from dataclasses import replace
from fractions import Fraction

import numpy as np
import pytest

from dynaface.assets import ASSETS
from dynaface.core.clock.timecode import Timecode, parse_timecode
from dynaface.core.contact.feet import legs_alone
from dynaface.core.curves.channels import Channels
from dynaface.core.errors import InputError
from dynaface.core.sound.drift import without_drift
from dynaface.core.sound.sound import Sound
from dynaface.core.sync.claps import Claps, by_claps, claps_of_body, claps_of_sound
from dynaface.core.sync.curves import by_lids_and_jaw
from dynaface.core.sync.fit import CONFIDENT, correlated, standard
from dynaface.core.sync.line_up import Source, fit_of, line_up, turned_round
from dynaface.core.sync.lips_to_sound import by_lips
from dynaface.core.sync.motion import by_head_motion
from dynaface.core.sync.sounds import by_sound
from dynaface.formats.entries import wav
from dynaface.sims.actor import act
from dynaface.sims.body_suit import move
from dynaface.sims.moment import clapped, clapping, heard, seen_by_camera, spoken_lines

HALF_FRAME = 0.5 / 60
MIDNIGHT = Timecode(0, Fraction(60))


@pytest.fixture(scope="module")
def room():
    return spoken_lines(40, np.random.default_rng(3))


@pytest.fixture(scope="module")
def body():
    return clapping(move(22, MIDNIGHT, 8), [6.0])


@pytest.mark.parametrize(("later", "drift"), [(4.25, 0.0), (-6.5, 150.0), (0.0, -200.0)])
def test_two_recorders_that_run_apart_are_found_to_the_millisecond(room, later, drift):
    rng = np.random.default_rng(5)
    one = heard(room[0], 7, 24, 48_000, 0, 0.004, rng)
    other = heard(room[0], 7 + later, 24, 44_100, drift, 0.004, rng)
    fit = by_sound(one, other)
    assert fit.confident
    assert fit.offset == pytest.approx(later, abs=0.001)
    assert fit.drift == pytest.approx(drift, abs=15)


@pytest.mark.parametrize("drift", [150.0, -60.0])
def test_drift_that_is_taken_out_is_found_no_more(room, drift):
    rng = np.random.default_rng(6)
    one, other = (heard(room[0], 7, 24, 48_000, d, 0.004, rng) for d in (0, drift))
    found = by_sound(one, other).drift
    assert abs(by_sound(one, without_drift(other, found)).drift) < 15


def test_two_rooms_are_not_called_one():
    one, other = (spoken_lines(20, np.random.default_rng(n))[0] for n in (1, 2))
    noise = Sound(np.random.default_rng(4).normal(0, 0.1, (16_000 * 20, 1)).astype(np.float32), 16_000)
    assert not by_sound(one, noise).confident
    assert not by_sound(other, noise).confident


def test_a_head_that_two_machines_saw_lies_at_one_place_whichever_way_it_faced(body):
    face = seen_by_camera(body, 5.5, 9, Fraction(60_000, 1001), 0.3, np.random.default_rng(2))
    fit = by_head_motion(face, body)
    assert fit.confident
    assert fit.offset == pytest.approx(-5.5, abs=HALF_FRAME)


def test_a_head_that_was_not_seen_to_turn_says_so(body):
    still = Channels(("headTurn", "headNod", "headTilt"), np.zeros((600, 3), np.float32), Fraction(60))
    for face in (still, Channels(("jawOpen",), np.zeros((600, 1), np.float32), Fraction(60))):
        with pytest.raises(InputError, match="face take saw the head do nothing"):
            by_head_motion(face, body)


@pytest.fixture(scope="module")
def performance(room):
    return act(room[1], 24, 9)


def test_two_faces_lie_together_by_lids_and_jaw(performance):
    part = replace(performance, values=performance.values[120 * 7 : 120 * 15])
    fit = by_lids_and_jaw(performance, part.with_values(part.values * 0.8))
    assert fit.confident
    assert fit.offset == pytest.approx(7, abs=0.001)
    nothing = part.with_values(np.zeros_like(part.values))
    with pytest.raises(InputError, match="neither blinks"):
        by_lids_and_jaw(performance, nothing)


def test_lips_and_a_recorder_that_ran_longer_lie_within_a_frame_at_30(room, performance):
    sound = heard(room[0], 0, 24, 48_000, 0, 0.003, np.random.default_rng(1))
    part = replace(performance, values=performance.values[120 * 6 : 120 * 19])
    fit = by_lips(part, sound)
    assert fit.confident
    assert fit.offset == pytest.approx(-6, abs=1 / 30)


def test_a_clap_is_heard_and_seen_at_one_moment(room, body):
    sound = heard(
        clapped(room[0], [6.0], np.random.default_rng(7)), 1.5, 18, 48_000, 0, 0.003, np.random.default_rng(8)
    )
    assert claps_of_body(body).times == pytest.approx([6.0], abs=HALF_FRAME)
    fit = by_claps(claps_of_body(body), claps_of_sound(sound))
    assert fit.confident
    assert fit.offset == pytest.approx(1.5, abs=HALF_FRAME)


def test_claps_of_which_any_could_be_the_other_are_not_sure():
    even = Claps(np.arange(5.0), np.ones(5))
    assert not by_claps(Claps(np.array([2.0]), np.ones(1)), even).confident
    uneven = Claps(np.array([0.0, 1.3, 1.9, 4.0]), np.ones(4))
    assert by_claps(uneven, Claps(uneven.times + 3, uneven.sharp)).offset == pytest.approx(-3, abs=0.003)
    with pytest.raises(InputError, match="no clap"):
        by_claps(Claps(np.zeros(0), np.zeros(0)), even)


def test_talk_and_gestures_are_no_claps(room, body):
    talk = heard(room[0], 1.5, 18, 48_000, 0, 0.003, np.random.default_rng(8))
    assert claps_of_sound(talk).sure < 0.5
    assert claps_of_body(body).sure == 1
    assert not by_claps(
        claps_of_body(body), replace(claps_of_sound(talk), times=np.array([3.0]), sharp=np.ones(1))
    ).confident


def test_a_voice_that_begins_out_of_silence_is_no_clap():
    voice = wav.read((ASSETS / "demo/mara_lamp.wav").read_bytes())
    assert claps_of_sound(voice).sure < 0.5
    recorder = claps_of_sound(wav.read((ASSETS / "demo/mara_lamp_recorder.wav").read_bytes()))
    assert recorder.sure == 1
    assert recorder.times[np.argmax(recorder.sharp)] == pytest.approx(1.6 - 0.86, abs=HALF_FRAME)


def test_nobody_claps_without_hands(body):
    legs, _ = legs_alone(body)
    assert not len(claps_of_body(legs).times)
    assert not len(claps_of_sound(Sound(np.zeros((0, 1), np.float32), 48_000)).times)


def test_a_signal_fits_itself_best_where_it_lies():
    rng = np.random.default_rng(0)
    signal = standard(rng.normal(0, 1, (600, 2)).cumsum(axis=0))
    lags, scores = correlated(signal, signal[150:450], 100, 2)
    assert lags[scores.argmax()] == pytest.approx(1.5)
    assert scores.max() <= 1
    with pytest.raises(InputError, match="too short"):
        correlated(signal[:100], signal[:100], 100, 2)


def test_a_whole_moment_is_lined_up_each_by_the_surest_way(room, body, performance):
    rng = np.random.default_rng(11)
    one = heard(clapped(room[0], [6.0], rng), 0, 22, 48_000, 0, 0.003, rng)
    two = heard(clapped(room[0], [6.0], rng), 2.5, 18, 44_100, 90, 0.003, rng)
    angles = seen_by_camera(body, 3.0, 12, Fraction(60), 0.2, rng)
    sources = [
        Source("body.bvh", None, body=body),
        Source("a.wav", sound=one),
        Source("b.wav", sound=two),
        Source("face.csv", face=angles),
    ]
    placed = {p.name: p for p in line_up(sources)}
    assert placed["body.bvh"].how == "first"
    assert {n: p.how for n, p in placed.items() if n != "body.bvh"} == {
        "a.wav": "clap",
        "b.wav": "sound",
        "face.csv": "motion",
    }
    for name, start in (("a.wav", 0.0), ("b.wav", 2.5), ("face.csv", 3.0)):
        assert placed[name].start == pytest.approx(start, abs=HALF_FRAME), name
        assert placed[name].confidence >= CONFIDENT
    assert placed["b.wav"].against == "a.wav"
    assert placed["b.wav"].drift == pytest.approx(90, abs=25)


def test_timecode_wins_and_counts_past_midnight(body):
    late = parse_timecode("23:59:58:00", Fraction(25))
    early = parse_timecode("00:00:01:12", Fraction(25))
    still = Channels(("jawOpen",), np.zeros((60, 1), np.float32), Fraction(60))
    placed = line_up([Source("a", late, face=still), Source("b", early, body=body)])
    assert placed[1].how == "timecode"
    assert placed[1].start == pytest.approx(3.48)
    assert line_up([Source("b", early, body=body), Source("a", late, face=still)], "timecode")[
        1
    ].start == pytest.approx(-3.48)


def test_what_nothing_speaks_of_is_left_out():
    silent = Sound(np.zeros((48_000, 1), np.float32), 48_000)
    still = Channels(("jawOpen",), np.zeros((60, 1), np.float32), Fraction(60))
    placed = line_up([Source("a", face=still), Source("b", sound=silent)])
    assert (placed[1].start, placed[1].how, placed[1].confidence) == (None, "", 0.0)
    assert fit_of(Source("a", face=still), Source("b", sound=silent), "sound") is None
    for given, by, words in (
        ([Source("a", face=still)], "auto", "cannot be lined up"),
        ([Source("a")] * 2, "smell", "by is"),
    ):
        with pytest.raises(InputError, match=words):
            line_up(given, by)


def test_a_fit_turned_round_twice_is_itself(body):
    fit = by_head_motion(seen_by_camera(body, 5.5, 9, Fraction(60), 0.3, np.random.default_rng(2)), body)
    again = turned_round(turned_round(fit))
    assert (again.offset, again.drift) == (fit.offset, fit.drift)
    assert np.array_equal(again.lags, fit.lags)
