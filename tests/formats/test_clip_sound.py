"""The sound of a clip is written piece by piece, in a form that stays small enough however long the clip is."""

import io
from fractions import Fraction

import numpy as np
import pytest

from dynaface.core.errors import InputError
from dynaface.core.sound.sound import Sound, peaks
from dynaface.formats import clip_sound
from dynaface.formats.clip_sound import form_for, write_clip_sound
from dynaface.formats.entries import video, wav
from dynaface.formats.stored import Held
from tests.makers import noise_film

RATE, SECONDS = 48000, 2


@pytest.fixture(scope="module")
def clip():
    """A clip with a tone on the left that is twice as loud as the one on the right."""
    tone = 0.4 * np.sin(2 * np.pi * 440 * np.arange(RATE * SECONDS) / RATE).astype(np.float32)
    pictures = iter(np.zeros((10 * SECONDS, 32, 32, 3), np.uint8))
    return video.encode(pictures, Fraction(10), sound=Sound(np.stack([tone, tone / 2], axis=1), RATE))


def written(clip):
    out = io.BytesIO()
    return write_clip_sound(Held(clip), SECONDS, out, 200), wav.read(out.getvalue())


def test_it_is_the_sound_that_is_decoded_at_once(clip):
    (findings, drawn), sound = written(clip)
    whole = video.sound_of(clip)
    assert sound.rate == RATE
    np.testing.assert_allclose(sound.samples, whole.samples, atol=1e-4)
    np.testing.assert_allclose(drawn, peaks(sound, 200), atol=1e-6)
    assert findings == wav.FORMAT.check(sound)


def test_a_long_one_comes_in_one_channel_and_then_at_half_its_rate(clip, monkeypatch):
    assert form_for(48000, 600) == (48000, 2)
    assert form_for(48000, 3600) == (48000, 1)
    assert form_for(48000, 2 * 3600) == (24000, 1)
    monkeypatch.setattr(clip_sound, "MOST", RATE * SECONDS)
    (findings, _), sound = written(clip)
    assert (sound.rate, sound.samples.shape[1]) == (RATE // 2, 1)
    assert sound.seconds == pytest.approx(SECONDS, abs=0.05)
    assert sound.samples.std() * np.sqrt(2) == pytest.approx(0.3, abs=0.02)
    assert findings["channels"] == 1


def test_no_form_is_larger_than_allowed_at_any_length():
    for hours in (0.1, 0.5, 1, 2, 4.6):
        rate, channels = form_for(96000, hours * 3600)
        assert hours * 3600 * rate * channels * 2 <= max(clip_sound.MOST, hours * 3600 * 16000)


def test_a_clip_without_sound_is_said():
    with pytest.raises(InputError, match="no sound in it"):
        write_clip_sound(Held(noise_film()), 1, io.BytesIO(), 200)
