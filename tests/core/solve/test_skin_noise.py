"""The noise of the skin's motion, learned from made turns."""

import numpy as np
import pytest

from dynaface.core.solve.skin_noise import LOST, PIXEL_NOISE, WAYS, noise_of_turn, unknown_noise

FRAMES, POINTS, SCALE = 60, 300, 900.0  # pixels a metre


def turn(seed: int, ways: int, white: float):
    """(pixels, aside, scale, ways (POINTS, 3, ways) in metres) of a face of which points are off together and each by white pixels."""
    rng = np.random.default_rng(seed)
    together = np.zeros((POINTS, 3, ways))
    place = np.linspace(0, 1, POINTS)
    for way in range(ways):
        together[:, way % 2, way] = 0.002 * np.cos(np.pi * (way + 1) * place)
    aside = np.tensordot(rng.normal(size=(FRAMES, ways)), together, axes=(1, 2))
    aside[..., :2] += rng.normal(size=(FRAMES, POINTS, 2)) * white / SCALE
    return aside[..., :2] * SCALE, aside, np.full(FRAMES, SCALE), together


@pytest.mark.parametrize("ways", [1, 4, WAYS])
def test_ways_of_a_turn_are_found_and_the_rest_is_each_points_own(ways):
    pixels, aside, scale, together = turn(3, ways, 0.6)
    found = noise_of_turn(pixels, aside, scale)
    true = together.reshape(-1, ways)
    mine = found.together.reshape(len(true), -1)
    kept = mine @ np.linalg.lstsq(mine, true, rcond=None)[0]
    assert np.linalg.norm(kept - true, axis=0) == pytest.approx(0, abs=0.15 * np.linalg.norm(true, axis=0).max())
    assert np.median(found.alone) == pytest.approx(np.hypot(PIXEL_NOISE, 0.6), rel=0.15)


def test_ways_are_as_large_as_they_were_seen():
    pixels, aside, scale, together = turn(5, 2, 0.0)
    found = noise_of_turn(pixels, aside, scale)
    assert np.linalg.norm(found.together) == pytest.approx(np.linalg.norm(together), rel=0.2)
    assert found.alone == pytest.approx(np.full(POINTS, PIXEL_NOISE), abs=1e-3)


def test_a_point_that_was_lost_for_a_moment_makes_no_way_of_its_own():
    pixels, aside, scale, _ = turn(7, 1, 0.3)
    lost_pixels, lost_aside = pixels.copy(), aside.copy()
    lost_aside[10, 40, 0] += 200 / SCALE
    lost_pixels[10, 40, 0] += 200
    before, after = noise_of_turn(pixels, aside, scale), noise_of_turn(lost_pixels, lost_aside, scale)
    typical = np.sqrt(np.median((pixels[:, 40] ** 2).sum(axis=1)))
    assert np.linalg.norm(after.together[40]) * SCALE < np.sqrt(LOST) * typical
    assert after.together[[0, 100, 299], :, 0] ** 2 == pytest.approx(before.together[[0, 100, 299], :, 0] ** 2, rel=0.1)


def test_a_short_turn_has_fewer_ways_than_frames():
    pixels, aside, scale, _ = turn(9, 2, 0.3)
    assert noise_of_turn(pixels[:4], aside[:4], scale[:4]).together.shape == (POINTS, 3, 3)


def test_without_a_turn_each_point_is_expected_to_be_off_alone():
    noise = unknown_noise(5)
    assert noise.alone.tolist() == [PIXEL_NOISE] * 5
    assert noise.together.shape == (5, 3, 0)
