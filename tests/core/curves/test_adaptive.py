"""Smoothing whose width fits the motion: noise goes where nothing happens, a blink stays."""

import numpy as np
import pytest

from dynaface.core.curves.adaptive import adaptive

FRAMES = np.arange(600)
NOISE = 0.02


def blink():
    return np.exp(-(((FRAMES - 300) / 4.0) ** 2)).astype(np.float32)[:, None]


def noisy(truth, seed=1, noise=NOISE):
    return (truth + np.random.default_rng(seed).normal(0, noise, truth.shape)).astype(np.float32)


def test_noise_goes_where_nothing_happens():
    given = noisy(np.full((600, 1), 0.4))
    made = adaptive(given, np.array([NOISE]))
    assert (made - 0.4).std() < 0.35 * (given - 0.4).std()


def test_a_blink_stays_as_high_as_it_was():
    made = adaptive(noisy(blink()), np.array([NOISE]))
    assert made[295:306].max() == pytest.approx(1.0, abs=0.05)
    assert abs(int(made.argmax()) - 300) <= 1


def test_it_beats_one_width_for_all_on_calm_and_quick_together():
    truth = blink()
    given = noisy(truth)
    made = adaptive(given, np.array([NOISE]))
    error = np.abs(made - truth).mean()
    for half in (2, 5, 12, 26):
        box = np.ones(2 * half + 1) / (2 * half + 1)
        plain = np.convolve(given[:, 0], box, mode="same")
        assert error < np.abs(plain - truth[:, 0]).mean()


def test_a_channel_without_noise_is_left_alone():
    given = noisy(np.zeros((600, 2)))
    made = adaptive(given, np.array([0.0, NOISE]))
    np.testing.assert_array_equal(made[:, 0], given[:, 0])
    assert made[:, 1].std() < given[:, 1].std()


def test_gaps_stay_gaps_and_are_not_smoothed_over():
    given = noisy(np.full((600, 1), 0.4))
    given[200:220] = np.nan
    made = adaptive(given, np.array([NOISE]))
    np.testing.assert_array_equal(np.isnan(made), np.isnan(given))
    apart = np.concatenate([adaptive(given[:200], np.array([NOISE])), adaptive(given[220:], np.array([NOISE]))])
    np.testing.assert_allclose(made[~np.isnan(made)], apart[:, 0], atol=1e-6)


@pytest.mark.parametrize("frames", [1, 2, 4, 5, 7])
def test_a_take_of_a_few_frames_comes_back(frames):
    given = np.full((frames, 1), 0.5, np.float32)
    np.testing.assert_allclose(adaptive(given, np.array([NOISE])), given, atol=1e-6)


def test_a_level_and_a_slope_pass_unchanged():
    slope = (FRAMES / 600).astype(np.float32)[:, None]
    np.testing.assert_allclose(adaptive(slope, np.array([NOISE]))[40:-40], slope[40:-40], atol=1e-5)


def test_widths_grow_with_the_rate():
    truth = np.full((1200, 1), 0.4)
    given = noisy(truth)
    slow, quick = (adaptive(given, np.array([NOISE]), rate) for rate in (30.0, 120.0))
    assert (quick - 0.4).std() < (slow - 0.4).std()
