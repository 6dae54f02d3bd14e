"""Sound: peaks for drawing, energy by frame."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from dynaface.core.errors import InputError
from dynaface.core.sound.sound import Sound, energy, peaks

RATE = 16000


def made(*parts):
    """A sound of tones, each (seconds, loudness)."""
    waves = [a * np.sin(2 * np.pi * 440 * np.arange(int(s * RATE)) / RATE) for s, a in parts]
    return Sound(np.concatenate(waves).astype(np.float32)[:, None], RATE)


@given(st.integers(1, 4000), st.integers(1, 2), st.sampled_from([50, 100, 200, 333]))
def test_peaks_hold_every_sample(samples, channels, per_second):
    sound = Sound(np.random.default_rng(samples).uniform(-1, 1, (samples, channels)).astype(np.float32), RATE)
    found = peaks(sound, per_second)
    mono = sound.mono()
    assert found[:, 0].min() == mono.min()
    assert found[:, 1].max() == mono.max()
    assert (found[:, 0] <= found[:, 1]).all()
    assert len(found) == int(np.ceil(samples * per_second / RATE))


def test_no_sound_has_no_peaks():
    assert peaks(Sound(np.zeros((0, 1), np.float32), RATE)).shape == (0, 2)


def test_channels_are_mixed_evenly():
    left_and_right = np.array([[1.0, -1.0], [0.5, 0.5]], np.float32)
    np.testing.assert_array_equal(Sound(left_and_right, RATE).mono(), [0.0, 0.5])


def test_energy_follows_loudness_frame_by_frame():
    found = energy(made((1, 0.01), (1, 1.0), (1, 0.01)), 60)
    assert found[90] == pytest.approx(0, abs=1)
    assert found[30] == pytest.approx(-40, abs=1)
    assert found[150] == pytest.approx(-40, abs=1)


def test_energy_has_a_floor_and_a_top():
    found = energy(made((1, 1.0), (1, 1e-9)), 60)
    assert found.max() <= 0
    assert found.min() == -60


def test_silence_is_at_the_floor():
    assert (energy(Sound(np.zeros((RATE, 1), np.float32), RATE), 60) == -60).all()


@pytest.mark.parametrize("rate", [24, 25, 30, 60, 120])
def test_energy_has_a_value_for_each_frame(rate):
    assert len(energy(made((2, 1.0)), rate)) == 2 * rate + 1


def test_a_constant_has_no_energy():
    loud = Sound(np.full((RATE, 1), 0.5, np.float32), RATE)
    assert (energy(loud, 60) == -60).all()


def test_samples_are_a_table():
    with pytest.raises(InputError, match="samples has shape"):
        Sound(np.zeros(10, np.float32), RATE)
