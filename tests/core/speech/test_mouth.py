"""What the mouth does for phones, and where words lead."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from dynaface.core.curves.keys import evaluate_keys
from dynaface.core.speech.lead import lead
from dynaface.core.speech.mouth import ASKED, Style, mouth
from dynaface.core.speech.words import Phone, Word

TIMES = np.arange(240) / 60


def word(*names, first=1.0, each=0.1, **more):
    phones = tuple(Phone(n, first + i * each, first + (i + 1) * each) for i, n in enumerate(names))
    return Word("word", first, first + len(names) * each, phones, **more)


def at(made, shape, second):
    return float(made.get(shape, np.zeros(len(TIMES)))[round(second * 60)])


def parted(made, second):
    return at(made, "jawOpen", second) - at(made, "mouthClose", second)


@given(st.lists(st.sampled_from(sorted(ASKED)), min_size=1, max_size=12), st.floats(0.02, 0.3))
def test_weights_stay_weights_whatever_is_said(names, each):
    made = mouth([word(*names, each=each)], TIMES, Style(2.0, 2.0, 2.0, 2.0))
    for curve in made.values():
        assert curve.shape == TIMES.shape
        assert (curve >= 0).all()
        assert (curve <= 1).all()


@pytest.mark.parametrize("closed", ["M", "B", "P"])
@pytest.mark.parametrize("about", ["AA", "IY", "UW", "OW"])
@pytest.mark.parametrize("each", [0.06, 0.1, 0.2])
def test_lips_meet_for_what_is_said_with_them_shut(closed, about, each):
    made = mouth([word(about, closed, about, each=each)], TIMES)
    assert parted(made, 1.0 + 1.5 * each) < 0.01
    assert parted(made, 1.0 + 0.3 * each) > 0.05


def test_the_lower_lip_goes_to_the_teeth_for_f():
    made = mouth([word("AA", "F", "AA")], TIMES)
    assert at(made, "mouthRollLower", 1.15) > 0.25
    assert at(made, "mouthRollLower", 0.9) < 0.05


def test_rounding_comes_ahead_of_time():
    """In "too" the lips are round before the vowel; in "tea" they are spread no sooner than it."""
    made = mouth([word("T", "UW")], TIMES)
    before, inside = at(made, "mouthPucker", 1.05), at(made, "mouthPucker", 1.15)
    assert before > 0.4 * inside
    assert at(mouth([word("T", "IY")], TIMES), "mouthPucker", 1.05) < 0.02


def test_far_from_all_words_the_mouth_rests():
    made = mouth([word("AA", "M", "OW")], TIMES)
    for shape in made:
        assert at(made, shape, 0.2) < 0.01
        assert at(made, shape, 3.5) < 0.01


def test_a_words_lips_and_jaw_are_weakened_by_themselves():
    loud = mouth([word("W", "AA", "W")], TIMES)
    quiet = mouth([word("W", "AA", "W", lips=0.3)], TIMES)
    still = mouth([word("W", "AA", "W", jaw=0.3)], TIMES)
    assert at(quiet, "mouthPucker", 1.05) < 0.5 * at(loud, "mouthPucker", 1.05)
    assert at(quiet, "jawOpen", 1.15) == pytest.approx(at(loud, "jawOpen", 1.15))
    assert at(still, "jawOpen", 1.15) < 0.5 * at(loud, "jawOpen", 1.15)


def test_a_louder_word_opens_the_jaw_wider():
    plain, louder = (mouth([word("AA", loud=v)], TIMES, Style(energy=1.0)) for v in (1.0, 1.6))
    assert at(louder, "jawOpen", 1.05) > 1.2 * at(plain, "jawOpen", 1.05)
    assert at(mouth([word("AA", loud=1.6)], TIMES, Style(energy=0.0)), "jawOpen", 1.05) == at(plain, "jawOpen", 1.05)


def test_nothing_said_makes_nothing():
    assert mouth([], TIMES) == {}


def test_two_words_far_apart_do_not_know_of_each_other():
    one, other = word("AA", "P", first=0.5), word("UW", "F", first=3.0)
    both, alone = mouth([one, other], TIMES), mouth([one], TIMES)
    for shape in alone:
        np.testing.assert_allclose(both[shape][:90], alone[shape][:90], atol=1e-3)


def weights(words, **more):
    keys = lead(words, 60, 240, **{"low": 0.2, "lead_in": 0.1, "lead_out": 0.1, "by_word": False, **more})
    return evaluate_keys(keys, 240)


def test_what_is_captured_counts_less_under_words_and_wholly_beside_them():
    made = weights([word("AA", "M", first=1.0), word("AA", "M", first=2.0)])
    assert made[[70, 130]] == pytest.approx([0.2, 0.2], abs=1e-6)
    assert made[[10, 98, 200]] == pytest.approx([1, 1, 1], abs=1e-6)
    assert (np.diff(made[45:61]) <= 1e-6).all()


def test_between_the_words_of_a_phrase_it_comes_up_only_when_asked_by_word():
    said = [word("AA", "M", first=1.0), word("AA", "M", first=1.5)]
    assert weights(said, by_word=True, lead_in=0.05, lead_out=0.05)[81] > 0.9
    near = [word("AA", "M", first=1.0), word("AA", "M", first=1.35)]
    assert weights(near)[76] == pytest.approx(0.2, abs=1e-6)


def test_leads_follow_the_speed_of_speech():
    slow = lead([word("AA", "M", first=1.0, each=0.16)], 60, 240, 0.2, 0.1, 0.1, False)
    quick = lead([word("AA", "M", first=1.0, each=0.04)], 60, 240, 0.2, 0.1, 0.1, False)
    assert 60 - slow[0].frame == pytest.approx(2 * 0.1 * 60, abs=0.1)
    assert 60 - quick[0].frame == pytest.approx(0.5 * 0.1 * 60, abs=0.1)


@given(st.lists(st.floats(-0.5, 4.5), max_size=8), st.floats(0, 0.5), st.booleans())
def test_keys_of_leads_rise_in_time_and_lie_within(starts, leads, by_word):
    said = [word("AA", "M", first=s) for s in starts]
    frames = [k.frame for k in lead(said, 60, 240, 0.2, leads, leads, by_word)]
    assert frames == sorted(set(frames))
    assert all(0 <= f <= 239 for f in frames)


def test_one_phone_counts_less_and_the_others_as_before():
    plain = mouth([word("L", "AA", "N", "UW")], TIMES)
    weak = [
        Phone(p.name, p.first, p.last, 1.0, 0.2 if p.name == "AA" else 1.0) for p in word("L", "AA", "N", "UW").phones
    ]
    less = mouth([Word("word", 1.0, 1.4, tuple(weak))], TIMES)
    assert at(less, "jawOpen", 1.15) < 0.6 * at(plain, "jawOpen", 1.15)
    assert at(less, "mouthPucker", 1.35) == pytest.approx(at(plain, "mouthPucker", 1.35), abs=0.01)
    once = Phone("AA", 1.0, 1.2, lips=0.5, jaw=0.5)
    whole = Word("a", 1.0, 1.2, (Phone("AA", 1.0, 1.2),), lips=0.5, jaw=0.5)
    same = mouth([Word("a", 1.0, 1.2, (once,))], TIMES)
    for shape, curve in mouth([whole], TIMES).items():
        assert same[shape] == pytest.approx(curve, abs=1e-9)
