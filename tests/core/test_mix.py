"""Sounds mixed sample by sample."""

from fractions import Fraction as Fr

import numpy as np
import pytest

from dynaface.core.sound.mix import Part, mix
from dynaface.core.sound.sound import Sound


def noise(seconds=1, rate=8000, seed=1):
    return Sound(np.random.default_rng(seed).uniform(-0.4, 0.4, (seconds * rate, 1)).astype(np.float32), rate)


def test_a_part_at_the_mix_s_rate_is_taken_over_sample_by_sample():
    sound = noise()
    made = mix([Part(sound, Fr(1, 2), Fr(0), Fr(1))], 8000, Fr(3))
    assert made.samples.shape == (24000, 1)
    np.testing.assert_array_equal(made.samples[4000:12000], sound.samples)
    assert not made.samples[:4000].any()
    assert not made.samples[12000:].any()


def test_parts_add_with_their_gains():
    one, other = noise(seed=1), noise(seed=2)
    made = mix([Part(one, Fr(0), Fr(0), Fr(1), gain=0.5), Part(other, Fr(0), Fr(0), Fr(1))], 8000)
    np.testing.assert_allclose(made.samples, 0.5 * one.samples + other.samples, atol=1e-6)


def test_nothing_is_cut_an_end_beyond_the_picture_is_heard():
    assert mix([Part(noise(2), Fr(1), Fr(0), Fr(2))], 8000, Fr(2)).seconds == 3


def test_stretches_splits_and_slips_join_without_a_seam():
    sound = noise()
    whole = mix([Part(sound, Fr(0), Fr(0), Fr(1))], 8000)
    split = mix([Part(sound, Fr(0), Fr(0), Fr(1, 3)), Part(sound, Fr(1, 3), Fr(1, 3), Fr(1))], 8000)
    np.testing.assert_allclose(split.samples, whole.samples, atol=2e-4)


def test_a_sound_that_is_not_there_yet_or_any_more_is_silence():
    made = mix([Part(noise(), Fr(0), Fr(-1), Fr(2))], 8000)
    assert not made.samples[:8000].any()
    assert made.samples[8000:16000].any()
    assert not made.samples[16000:].any()


def test_double_speed_is_half_as_long_and_other_rates_are_placed_by_time():
    ramp = Sound(np.linspace(0, 0.8, 8000, dtype=np.float32)[:, None], 8000)
    quick = mix([Part(ramp, Fr(0), Fr(0), Fr(1), speed=Fr(2))], 8000)
    assert quick.seconds == 0.5
    np.testing.assert_allclose(quick.samples[1000], ramp.samples[2000], atol=1e-5)
    finer = mix([Part(ramp, Fr(0), Fr(0), Fr(1))], 48000)
    np.testing.assert_allclose(finer.samples[24000], ramp.samples[4000], atol=1e-4)


def test_fades_begin_and_end_at_nothing_and_peaks_turn_the_whole_down():
    loud = Sound(np.full((8000, 1), 0.9, np.float32), 8000)
    faded = mix([Part(loud, Fr(0), Fr(0), Fr(1), fade_in=Fr(1, 4), fade_out=Fr(1, 4))], 8000).samples[:, 0]
    assert faded[0] == 0
    assert faded[-1] < 0.01
    assert faded[4000] == pytest.approx(0.9)
    both = mix([Part(loud, Fr(0), Fr(0), Fr(1)), Part(loud, Fr(0), Fr(0), Fr(1))], 8000)
    assert np.abs(both.samples).max() == pytest.approx(1)
