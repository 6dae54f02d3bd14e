"""Words, the phones in them, and the stretches without a pause."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from dynaface.core.errors import InputError
from dynaface.core.speech.phones import VOWELS, phone_of_ipa
from dynaface.core.speech.words import Phone, Word, phones_of, phrases

LAMP = Word("lamp", 1.0, 1.4, (Phone("L", 1.0, 1.1), Phone("AE", 1.1, 1.2), Phone("M", 1.2, 1.3), Phone("P", 1.3, 1.4)))


@given(st.floats(-5, 5), st.floats(0.01, 5))
def test_phones_keep_their_share_of_a_word_that_is_moved(first, length):
    moved = LAMP.moved(first, first + length)
    assert moved.phones[0].first == pytest.approx(first)
    assert moved.phones[-1].last == pytest.approx(first + length)
    assert [p.last - p.first for p in moved.phones] == pytest.approx([length / 4] * 4)


def test_a_word_that_ends_before_it_begins_is_refused():
    with pytest.raises(InputError):
        Word("lamp", 2.0, 1.0)
    with pytest.raises(InputError):
        LAMP.moved(1.0, 1.0)


def test_silence_stands_between_words_that_do_not_touch():
    later = LAMP.moved(2.0, 2.4)
    names = [p.name for p, _ in phones_of([later, LAMP])]
    assert names == ["L", "AE", "M", "P", "SIL", "L", "AE", "M", "P"]
    silence = phones_of([later, LAMP])[4][0]
    assert (silence.first, silence.last) == (pytest.approx(1.4), pytest.approx(2.0))


def test_a_phrase_ends_where_a_pause_begins():
    said = [LAMP.moved(t, t + 0.3) for t in (0.0, 0.4, 1.0, 1.31)]
    assert phrases(said) == [(0.0, 0.7), (1.0, pytest.approx(1.61))]
    assert phrases([]) == []


@pytest.mark.parametrize(
    ("ipa", "phone"),
    [("æ", "AE"), ("oʊ", "OW"), ("ɜː", "ER"), ("ˈa", "AA"), ("tʃ", "CH"), ("ʁ", "HH"), ("y", "UE"), ("ɔ̃", "OW"), ("p", "P"), ("", None), ("_", None)],
)  # fmt: skip
def test_phones_of_other_languages_are_named_by_what_they_sound_like(ipa, phone):
    assert phone_of_ipa(ipa) == phone


def test_every_vowel_is_asked_of_the_mouth():
    from dynaface.core.speech.mouth import ASKED

    assert set(ASKED) >= VOWELS
