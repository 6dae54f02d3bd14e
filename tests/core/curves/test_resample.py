"""Resampling by time stamps: what was recorded stays, nothing overshoots, long gaps stay gaps."""

import numpy as np
import pytest
from scipy.interpolate import PchipInterpolator

from dynaface.core.curves.resample import merge_doubled, resample


def recorded(seed, rows=60, columns=3):
    rng = np.random.default_rng(seed)
    times = np.cumsum(rng.uniform(0.005, 0.05, rows))
    return times, rng.uniform(0, 1, (rows, columns)).astype(np.float32)


@pytest.mark.parametrize("seed", range(4))
class TestResample:
    def test_recorded_moments_keep_their_values(self, seed):
        times, values = recorded(seed)
        assert resample(times, values, times, 1.0) == pytest.approx(values, abs=1e-6)

    def test_it_is_the_libraries_monotone_cubic_inside(self, seed):
        times, values = recorded(seed)
        asked = np.linspace(times[1], times[-2], 400)
        assert resample(times, values, asked, 1.0) == pytest.approx(PchipInterpolator(times, values)(asked), abs=1e-5)

    def test_nothing_overshoots_its_neighbours(self, seed):
        times, values = recorded(seed)
        asked = np.linspace(times[0], times[-1], 1000)
        made = resample(times, values, asked, 1.0)
        at = np.clip(np.searchsorted(times, asked, "right") - 1, 0, len(times) - 2)
        low, high = np.minimum(values[at], values[at + 1]), np.maximum(values[at], values[at + 1])
        assert (made >= low - 1e-6).all()
        assert (made <= high + 1e-6).all()

    def test_columns_do_not_know_of_each_other(self, seed):
        times, values = recorded(seed)
        asked = np.linspace(times[0], times[-1], 200)
        values[10:14, 0] = np.nan
        together = resample(times, values, asked, 0.5)
        for column in range(values.shape[1]):
            alone = resample(times, values[:, column : column + 1], asked, 0.5)[:, 0]
            assert together[:, column] == pytest.approx(alone, abs=1e-6, nan_ok=True)


class TestGaps:
    def test_a_short_gap_is_bridged_and_a_long_one_stays(self):
        times = np.arange(100) / 100
        values = np.sin(times * 6)[:, None].astype(np.float32)
        values[20:24] = np.nan
        values[50:80] = np.nan
        made = resample(times, values, times, 0.1)[:, 0]
        assert made[20:24] == pytest.approx(np.sin(times[20:24] * 6), abs=0.01)
        assert np.isnan(made[50:80]).all()
        assert np.isfinite(np.delete(made, np.s_[50:80])).all()

    def test_before_and_after_the_recording_there_is_nothing(self):
        made = resample(np.array([1.0, 1.1]), np.ones((2, 1), np.float32), np.array([0.5, 0.97, 1.05, 1.13, 2.0]), 0.12)
        assert np.isnan(made[[0, 4], 0]).all()
        assert made[1:4, 0] == pytest.approx(1)

    @pytest.mark.parametrize("rows", [0, 5])
    def test_nothing_known_gives_nothing(self, rows):
        made = resample(np.arange(rows) / 10, np.full((rows, 2), np.nan, np.float32), np.array([0.0, 0.1]), 1.0)
        assert np.isnan(made).all()


class TestDoubledFrames:
    def test_rows_at_one_moment_are_one_frame_of_their_mean(self):
        times, values = merge_doubled(
            np.array([0.0, 0.1, 0.1005, 0.2]), np.array([[0.0], [1], [3], [4]], np.float32), 0.01
        )
        assert times == pytest.approx([0, 0.10025, 0.2])
        assert values[:, 0] == pytest.approx([0, 2, 4])

    def test_what_one_row_lacks_the_other_gives(self):
        _, values = merge_doubled(np.array([0.0, 0.001]), np.array([[np.nan, 1], [2, np.nan]], np.float32), 0.01)
        assert values == pytest.approx(np.array([[2, 1]]))

    def test_rows_apart_stay(self):
        times, values = recorded(1)
        same = merge_doubled(times, values, 0.004)
        assert same[0] is times
        assert same[1] is values
