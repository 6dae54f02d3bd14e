from fractions import Fraction

import numpy as np
import pytest

from dynaface.core.curves.channels import Channels
from dynaface.core.errors import InputError
from dynaface.core.sound.sound import Sound, peaks
from dynaface.core.sync.lips_to_sound import TRAIL, estimate
from dynaface.sims.phone import late_sound


def talk(seconds=6.0, rate=16000, seed=0):
    """Bursts of noise, and a jaw that opens with each a little after."""
    rng = np.random.default_rng(seed)
    times = np.arange(int(seconds * rate)) / rate
    envelope = np.zeros_like(times)
    frames = np.arange(int(seconds * 60)) / 60
    jaw = np.zeros(len(frames))
    for at in np.cumsum(rng.uniform(0.18, 0.5, 14)):
        envelope += np.exp(-0.5 * ((times - at) / 0.04) ** 2)
        jaw += 0.4 * np.exp(-0.5 * ((frames - at + TRAIL) / 0.05) ** 2)
    sound = Sound((envelope * rng.normal(0, 0.2, len(times))).astype(np.float32)[:, None], rate)
    return Channels(("jawOpen",), jaw.astype(np.float32)[:, None], Fraction(60)), sound


@pytest.mark.parametrize("late", [-9, 0, 4, 9])
def test_the_offset_is_found_within_half_a_frame(late):
    face, voice = talk()
    found = estimate(face, late_sound(voice, late, 60, 6.0))
    assert found.offset * 60 == pytest.approx(-late, abs=0.7)
    assert found.confident


def test_noise_is_not_called_confident():
    face, _ = talk()
    rng = np.random.default_rng(9)
    assert not estimate(face, Sound(rng.normal(0, 0.1, (96000, 1)).astype(np.float32), 16000)).confident


def test_silence_and_short_takes_are_refused():
    face, voice = talk()
    with pytest.raises(InputError, match="does nothing"):
        estimate(face, Sound(np.zeros((96000, 1), np.float32), 16000))
    with pytest.raises(InputError, match="one second"):
        estimate(face, Sound(voice.samples[:4000], 16000))


def test_peaks_hold_the_extremes():
    samples = np.zeros((16000, 1), np.float32)
    samples[8000], samples[8001] = 0.9, -0.7
    found = peaks(Sound(samples, 16000))
    assert found.shape == (200, 2)
    assert (found[100] == np.float32([-0.7, 0.9])).all()
