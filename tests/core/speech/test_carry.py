"""Words carried from one voice to another, and guessed without a text; the voices are made of tones."""

import numpy as np
import pytest

from dynaface.core.sound.sound import Sound
from dynaface.core.speech.carry import carry
from dynaface.core.speech.cepstra import RATE, SECONDS, cepstra, heard_at
from dynaface.core.speech.guess import UNSAID, guess_words, resonances
from dynaface.core.speech.loudness import with_loudness
from dynaface.core.speech.phones import VOWELS
from dynaface.core.speech.words import Phone, Word

TONES = {"AA": (700, 1200), "IY": (300, 2400), "UW": (320, 900), "EH": (560, 1900)}


def buzz(seconds, tones, pitch=120.0, rate=RATE):
    """A buzz with two resonances, as a vowel has."""
    at = np.arange(int(seconds * rate)) / rate
    out = np.zeros(len(at))
    for harmonic in range(1, int(rate / 2 / pitch)):
        f = harmonic * pitch
        gain = sum(1 / (1 + ((f - t) / 90) ** 2) for t in tones)
        out += gain * np.sin(2 * np.pi * f * at + harmonic)
    return 0.2 * out / np.abs(out).max()


def voice(lengths, pitch=120.0, pauses=None, seed=0):
    """(samples, words) of vowels that last so long, with pauses before each."""
    rng = np.random.default_rng(seed)
    parts, words, at = [], [], 0.0
    for n, (name, length) in enumerate(lengths):
        pause = (pauses or {}).get(n, 0.0)
        parts += [np.zeros(int(pause * RATE)), buzz(length, TONES[name], pitch)]
        words.append(Word(f"w{n}", at + pause, at + pause + length, (Phone(name, at + pause, at + pause + length),)))
        at += pause + length
    samples = np.concatenate(parts)
    return samples + rng.normal(0, 1e-4, len(samples)), words


KNOWN = [("AA", 0.2), ("IY", 0.2), ("UW", 0.2), ("EH", 0.2), ("AA", 0.2)]


def test_words_follow_another_speed_and_another_pitch():
    known, words = voice(KNOWN)
    heard, true = voice(
        [(n, s) for (n, _), s in zip(KNOWN, (0.3, 0.12, 0.25, 0.4, 0.15), strict=True)], pitch=190, seed=1
    )
    found, _ = carry(words, cepstra(known), cepstra(heard))
    off = [abs(f.first - t.first) for f, t in zip(found, true, strict=True)]
    assert max(off) < 0.03


def test_a_pause_that_the_known_voice_does_not_make_belongs_to_no_word():
    known, words = voice(KNOWN)
    heard, true = voice(KNOWN, pauses={0: 0.5, 2: 0.4, 4: 0.3}, seed=2)
    found, _ = carry(words, cepstra(known), cepstra(heard))
    for f, t in zip(found, true, strict=True):
        assert f.first == pytest.approx(t.first, abs=0.04)
        assert f.last == pytest.approx(t.last, abs=0.05)


def test_the_same_voice_is_the_most_alike():
    known, words = voice(KNOWN)
    other, _ = voice(list(reversed(KNOWN)), seed=3)
    assert carry(words, cepstra(known), cepstra(known))[1] < 0.5 * carry(words, cepstra(known), cepstra(other))[1]


def test_words_never_overlap_and_none_is_lost():
    known, words = voice(KNOWN)
    heard = np.random.default_rng(4).normal(0, 0.1, RATE)
    found, _ = carry(words, cepstra(known), cepstra(heard))
    assert [w.word for w in found] == [w.word for w in words]
    assert all(a.first <= b.first for a, b in zip(found, found[1:], strict=False))


@pytest.mark.parametrize("samples", [0, 1, 79, 81, 400])
def test_the_shortest_sounds_have_cepstra(samples):
    found = cepstra(np.zeros(samples))
    assert np.isfinite(found.values).all()
    assert len(found.values) == max(samples // 80, 1)


def test_a_sound_is_heard_at_one_rate_as_one_channel():
    sound = Sound(np.ones((48_000, 2), np.float32), 48_000)
    assert len(heard_at(sound)) == RATE
    assert SECONDS == 0.005


def test_stretches_of_speech_are_guessed_where_they_are():
    heard, true = voice([("AA", 0.4), ("IY", 0.4)], pauses={0: 0.5, 1: 0.6})
    found = guess_words(Sound(heard.astype(np.float32)[:, None], RATE))
    assert [w.word for w in found] == [UNSAID, UNSAID]
    for f, t in zip(found, true, strict=True):
        assert f.first == pytest.approx(t.first, abs=0.06)
        assert f.last == pytest.approx(t.last, abs=0.08)
        assert any(p.name in VOWELS for p in f.phones)


@pytest.mark.parametrize(("name", "one", "two"), [("AA", 700, 1200), ("IY", 300, 2400), ("EH", 560, 1900)])
def test_resonances_of_a_buzz_are_found(name, one, two):
    found = resonances(buzz(0.03, TONES[name], rate=10_000) * np.hamming(300))
    assert found[0] == pytest.approx(one, rel=0.25)
    assert found[1] == pytest.approx(two, rel=0.25)


def test_nothing_is_guessed_in_silence():
    assert guess_words(Sound(np.zeros((20_000, 1), np.float32), RATE)) == []
    assert guess_words(Sound(np.zeros((10, 1), np.float32), RATE)) == []
    assert resonances(np.zeros(300)) == (500.0, 1500.0)


def test_a_louder_word_counts_for_more():
    samples = np.concatenate([0.1 * buzz(0.5, TONES["AA"]), 0.1 * buzz(0.5, TONES["AA"]), buzz(0.5, TONES["AA"])])
    words = [Word(str(n), n * 0.5 + 0.1, n * 0.5 + 0.4) for n in range(3)]
    found = with_loudness(words, Sound(samples.astype(np.float32)[:, None], RATE))
    assert found[0].loud == pytest.approx(1.0, abs=0.1)
    assert found[2].loud == 2.0
    assert with_loudness([], Sound(samples.astype(np.float32)[:, None], RATE)) == []
