"""A recorder that ran at another speed: its sound put on the clock of another one."""

import numpy as np
import pytest

from dynaface.core.errors import InputError
from dynaface.core.sound.drift import without_drift
from dynaface.core.sound.sound import Sound

RATE = 16_000


def voice(seconds, drift=0.0, seed=1):
    """A made voice of a moment, as a recorder hears it whose seconds last longer by parts of a million."""
    rng = np.random.default_rng(seed)
    times = np.arange(int(seconds * RATE)) / RATE * (1 + drift / 1e6)
    out = np.zeros(len(times))
    for _ in range(40):
        at, pitch = rng.uniform(0, seconds), rng.uniform(120, 900)
        out += np.exp(-(((times - at) / 0.06) ** 2)) * np.sin(2 * np.pi * pitch * times)
    return Sound((0.3 * out / np.abs(out).max()).astype(np.float32)[:, None], RATE)


@pytest.mark.parametrize("drift", [200.0, -120.0, 37.5])
def test_it_is_what_the_other_recorder_heard(drift):
    truth, heard = voice(60), voice(60, drift)
    made = without_drift(heard, drift)
    assert len(made.samples) == pytest.approx(len(heard.samples) * (1 + drift / 1e6), abs=2)
    shared = slice(RATE, min(len(made.samples), len(truth.samples)) - RATE)
    before = np.abs(heard.samples[shared] - truth.samples[shared]).max()
    assert np.abs(made.samples[shared] - truth.samples[shared]).max() < 0.05 * before


def test_none_leaves_it_as_it_is_and_too_much_is_refused():
    sound = voice(2)
    assert without_drift(sound, 0.0) is sound
    empty = Sound(np.zeros((0, 1), np.float32), RATE)
    assert without_drift(empty, 50.0) is empty
    with pytest.raises(InputError, match="drift"):
        without_drift(sound, 9000.0)
