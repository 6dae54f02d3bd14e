"""Stretches replaced by what lies beside them, gaps, noise measured from a curve alone, other rates."""

from fractions import Fraction

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from dynaface.core.curves.baseline import drift_of, drift_through, resting
from dynaface.core.curves.channels import Channels
from dynaface.core.curves.gaps import bridged, gap_frames
from dynaface.core.curves.noise import noise_of
from dynaface.core.curves.patch import bridge, bridge_flags
from dynaface.core.curves.rerate import at_rate

FRAMES = np.arange(200)
SPANS = st.tuples(st.integers(5, 100), st.integers(1, 60)).map(lambda s: (s[0], s[0] + s[1]))


class TestBridges:
    @given(SPANS, st.floats(-0.01, 0.01), st.floats(0, 1))
    def test_a_straight_line_is_mended_exactly(self, span, slope, level):
        line = level + slope * FRAMES
        broken = line.copy()
        broken[slice(*span)] = 99
        bridge(broken, *span)
        np.testing.assert_allclose(broken, line, atol=1e-9)

    @given(SPANS, st.integers(0, 1000))
    def test_nothing_outside_the_stretch_changes(self, span, seed):
        curve = np.random.default_rng(seed).uniform(0, 1, 200)
        made = curve.copy()
        bridge(made, *span)
        outside = np.ones(200, bool)
        outside[slice(*span)] = False
        np.testing.assert_array_equal(made[outside], curve[outside])

    def test_a_curve_that_rises_through_is_not_overshot(self):
        curve = 1 / (1 + np.exp(-(FRAMES - 100) / 6.0))
        made = curve.copy()
        bridge(made, 90, 112)
        inside = made[89:113]
        assert (np.diff(inside) >= -1e-9).all()
        assert inside.max() <= curve[112] + 1e-6

    def test_at_an_end_the_last_value_is_held(self):
        curve = np.linspace(0, 1, 200)
        made = curve.copy()
        bridge(made, 180, 200)
        assert (made[180:] == curve[179]).all()
        bridge(made, 0, 10)
        assert (made[:10] == made[10]).all()

    def test_where_nothing_is_known_nothing_is_made_up(self):
        nothing = np.full(9, np.nan)
        bridge(nothing, 2, 5)
        assert np.isnan(nothing).all()

    def test_flat_bridges_leave_level(self):
        curve = np.linspace(0, 1, 200)
        bridge(curve, 50, 150, flat=True)
        assert abs(curve[50] - curve[49]) < 0.001

    def test_only_short_flagged_runs_are_bridged(self):
        values = np.tile(np.linspace(0, 1, 60, dtype=np.float32)[:, None], (1, 2))
        broken = values.copy()
        broken[10:13, 0] = 5
        broken[30:50, 0] = 5
        flags = broken == 5
        made = bridge_flags(broken, flags, longest=5)
        np.testing.assert_allclose(made[10:13], values[10:13], atol=1e-6)
        assert (made[30:50, 0] == 5).all()
        np.testing.assert_array_equal(made[:, 1], broken[:, 1])


class TestGaps:
    @given(st.lists(st.booleans(), min_size=1, max_size=60))
    def test_a_bridged_curve_has_none_and_keeps_what_was_known(self, known):
        values = np.linspace(0, 1, len(known), dtype=np.float32)[:, None]
        values[~np.array(known)] = np.nan
        made = bridged(values)
        assert gap_frames(made) == 0
        assert gap_frames(values) == len(known) - sum(known)
        np.testing.assert_array_equal(made[known], values[known])

    def test_a_curve_without_gaps_is_given_back_itself(self):
        values = np.zeros((5, 2), np.float32)
        assert bridged(values) is values

    def test_gaps_are_counted_by_frame_not_by_value(self):
        values = np.zeros((5, 3), np.float32)
        values[2] = np.nan
        values[3, 1] = np.nan
        assert gap_frames(values) == 2


class TestNoise:
    @pytest.mark.parametrize("noise", [0.002, 0.01, 0.05])
    def test_is_measured_beside_motion(self, noise):
        motion = 0.5 + 0.4 * np.sin(np.arange(2000) / 40)
        values = (motion + np.random.default_rng(2).normal(0, noise, 2000))[:, None]
        assert noise_of(values)[0] == pytest.approx(noise, rel=0.1)

    def test_gaps_and_limits_are_passed_over(self):
        values = np.random.default_rng(2).normal(0, 0.01, (2000, 1))
        values[values < 0] = 0  # cut off at the rest pose
        values[500:600] = np.nan
        assert 0 < noise_of(values)[0] < 0.02

    def test_a_channel_of_which_little_is_known_has_none(self):
        assert noise_of(np.random.default_rng(2).normal(0, 1, (10, 1)))[0] == 0
        assert noise_of(np.full((100, 1), 0.3))[0] == 0


class TestResting:
    RATE = 60.0

    def take(self, slope=0.0):
        """Half a minute of an expression that comes and goes over a level that drifts."""
        frames = np.arange(1800)
        acting = np.maximum(0, np.sin(frames / 90)) ** 3 * 0.6
        return (0.05 + slope * frames + acting).astype(np.float32)[:, None]

    def test_the_level_is_where_the_channel_returns_to(self):
        level, step = resting(self.take(), self.RATE)
        assert len(level) == -(-1800 // step)
        assert np.abs(level - 0.05).max() < 0.02

    def test_a_drift_is_found_and_a_steady_level_has_none(self):
        slope = 0.15 / 1800
        assert drift_of(self.take(slope), self.RATE)[-1, 0] == pytest.approx(0.15, abs=0.03)
        assert np.abs(drift_of(self.take(), self.RATE)).max() < 0.02

    def test_a_short_take_has_no_drift(self):
        assert not drift_of(self.take(0.001)[:400], self.RATE).any()

    def test_a_drift_through_moments_of_rest_is_what_is_held_there(self):
        values = (FRAMES / 200).astype(np.float32)[:, None]
        made = drift_through(values, [50, 150], self.RATE)
        assert made[50, 0] == pytest.approx(0.25, abs=0.01)
        assert made[100, 0] == pytest.approx(0.5, abs=0.01)
        assert made[0, 0] == made[50, 0]
        assert not drift_through(values, [], self.RATE).any()


class TestOtherRates:
    def channels(self, rate, frames=61):
        values = np.linspace(0, 1, frames, dtype=np.float32)[:, None]
        return Channels(("jawOpen",), values, Fraction(rate))

    @pytest.mark.parametrize("rate", [24, 25, 30, 60, 120, Fraction(30000, 1001)])
    def test_a_line_stays_a_line_and_as_long(self, rate):
        made = at_rate(self.channels(60), Fraction(rate))
        times = np.arange(made.frames) / float(rate)
        np.testing.assert_allclose(made.values[:, 0], times, atol=0.01)
        assert times[-1] <= 1 + 1e-6
        assert made.rate == rate

    def test_the_same_rate_changes_nothing(self):
        given_channels = self.channels(60)
        assert at_rate(given_channels, Fraction(60)) is given_channels

    def test_gaps_stay_gaps(self):
        given_channels = self.channels(60)
        given_channels.values[20:40] = np.nan
        made = at_rate(given_channels, Fraction(30))
        assert np.isnan(made.values[12:18]).all()
        assert not np.isnan(made.values[:9]).any()

    def test_nothing_has_another_rate_too(self):
        assert at_rate(self.channels(60, 0), Fraction(30)).rate == 30
