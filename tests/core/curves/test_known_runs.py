"""Work over what is known, patches over what is not, and the level at which channels rest."""

import numpy as np
import pytest

from dynaface.core.curves.baseline import drift_of, drift_through
from dynaface.core.curves.known_runs import over_runs, padded, runs
from dynaface.core.curves.patch import bridge, bridge_flags

RATE = 30.0


class TestRuns:
    @pytest.mark.parametrize("seed", range(5))
    def test_they_cover_just_what_is_flagged(self, seed):
        flags = np.random.default_rng(seed).random(80) < 0.5
        again = np.zeros(80, bool)
        for first, stop in runs(flags):
            assert not again[first:stop].any()
            again[first:stop] = True
        assert (again == flags).all()

    def test_runs_do_not_touch(self):
        found = runs(np.array([True, True, False, True]))
        assert found == [(0, 2), (3, 4)]

    def test_nothing_flagged_is_no_run(self):
        assert runs(np.zeros(5, bool)) == []


class TestOverRuns:
    def test_a_gap_is_never_reached_across(self):
        values = np.ones((20, 2), np.float32)
        values[8:12, 1] = np.nan
        seen = []
        over_runs(values, lambda part, columns: (seen.append((part.shape, columns.tolist())), part)[1])
        assert seen == [((20, 1), [0]), ((8, 1), [1]), ((8, 1), [1])]

    def test_gaps_stay_and_the_rest_is_worked_on(self):
        values = np.arange(20, dtype=np.float32).reshape(10, 2)
        values[3:5, 0] = np.nan
        made = over_runs(values, lambda part, _: part + 1)
        assert made == pytest.approx(values + 1, nan_ok=True)


class TestPadded:
    def test_a_line_goes_on_as_a_line(self):
        line = np.arange(10, dtype=np.float32)[:, None]
        assert padded(line, 4)[:, 0] == pytest.approx(np.arange(-4, 14))

    def test_more_than_there_is_still_has_the_size_asked_for(self):
        assert padded(np.ones((3, 2), np.float32), 10).shape == (23, 2)


class TestBridge:
    def test_a_line_is_put_back_exactly(self):
        line = np.linspace(0, 1, 30)
        spoilt = line.copy()
        spoilt[10:18] = 7
        bridge(spoilt, 10, 18)
        assert spoilt == pytest.approx(line, abs=1e-9)

    @pytest.mark.parametrize("seed", range(5))
    def test_frames_beside_it_are_left_alone(self, seed):
        before = np.random.default_rng(seed).random(40)
        after = before.copy()
        bridge(after, 15, 22)
        beside = np.r_[0:15, 22:40]
        assert (after[beside] == before[beside]).all()

    def test_at_an_end_the_other_side_is_held(self):
        values = np.r_[np.zeros(5), np.full(5, 0.4)]
        bridge(values, 0, 5)
        assert values == pytest.approx(np.full(10, 0.4))

    def test_with_nothing_beside_it_nothing_is_done(self):
        values = np.array([1.0, 2, 3])
        bridge(values, 0, 3)
        assert values == pytest.approx([1, 2, 3])

    def test_flags_longer_than_allowed_are_left(self):
        values = np.linspace(0, 1, 40, dtype=np.float32)[:, None]
        values[5:7] = values[20:35] = 9
        made = bridge_flags(values, values > 5, longest=4)[:, 0]
        assert made[5:7] == pytest.approx(np.linspace(0, 1, 40)[5:7], abs=1e-6)
        assert (made[20:35] == 9).all()


class TestDrift:
    def take(self, slope=0.0, seconds=40):
        rng = np.random.default_rng(3)
        frames = np.arange(int(seconds * RATE))
        talk = np.clip(np.sin(frames / 7) * (np.sin(frames / 60) > 0.2), 0, 1) * 0.4
        return (talk + slope * frames / len(frames) + rng.normal(0, 0.002, len(frames)))[:, None].astype(np.float32)

    def test_a_steady_drift_is_found_to_a_fifth(self):
        found = drift_of(self.take(0.2), RATE)[:, 0]
        assert found[-1] - found[0] == pytest.approx(0.2, abs=0.04)

    def test_a_take_that_does_not_drift_has_hardly_any(self):
        assert np.abs(drift_of(self.take(), RATE)).max() < 0.02

    def test_a_short_take_is_not_judged(self):
        assert not drift_of(self.take(0.2, seconds=6), RATE).any()

    def test_through_moments_of_rest_the_level_is_taken_from_them(self):
        level = np.linspace(0, 0.3, 300, dtype=np.float32)[:, None]
        found = drift_through(level, [50, 250], RATE)[:, 0]
        assert found[50:250] == pytest.approx(level[50:250, 0], abs=1e-3)
        assert found[0] == found[50]

    def test_without_moments_there_is_none(self):
        assert not drift_through(self.take(0.2), [], RATE).any()
