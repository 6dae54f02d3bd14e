"""Blinks and lip closures as they are found on curves."""

from fractions import Fraction

import numpy as np
import pytest

from dynaface.core.curves.channels import Channels
from dynaface.core.curves.events import FALL, PARTED, blinks, closures, crests

RATE = 30


def bump(frames, at, half):
    """(frames,) a smooth rise to 1 and back, `half` frames to either side."""
    away = np.abs(np.arange(frames) - at) / half
    return np.where(away < 1, 0.5 + 0.5 * np.cos(np.pi * np.minimum(away, 1)), 0.0)


def mouth(jaw, press=0.0):
    values = np.broadcast_arrays(np.atleast_1d(jaw), np.atleast_1d(press))
    stacked = np.stack([values[0], values[1], values[1]], axis=1).astype(np.float32)
    return Channels(("jawOpen", "mouthPressLeft", "mouthPressRight"), stacked, Fraction(RATE))


def spoken(at, frames=90, jaw=0.3, press=0.4, half=5):
    """A mouth that is open by `jaw` and shuts at each of the frames."""
    shut = np.clip(sum(bump(frames, k, half) for k in at), 0, 1)
    return mouth(jaw * (1 - shut), press * shut)


class TestClosures:
    def test_each_is_found_at_its_frame(self):
        assert [e.peak for e in closures(spoken([20, 45, 70]))] == [20, 45, 70]

    def test_its_span_holds_its_moment_and_not_the_open_mouth(self):
        (found,) = closures(spoken([45]))
        assert 41 <= found.first <= 45 <= found.last <= 49

    def test_lips_that_are_pressed_and_relax_without_parting_are_none(self):
        assert closures(spoken([45], jaw=PARTED - 0.02)) == []

    def test_a_mouth_that_hardly_moves_closes_nothing(self):
        little = spoken([45], jaw=FALL - 0.03, press=0.0)
        assert closures(little) == []

    def test_a_mouth_that_stays_apart_is_not_shut(self):
        assert closures(mouth(0.4 - 0.3 * bump(90, 45, 6))) == []

    def test_lips_held_shut_are_a_rest(self):
        rest = np.r_[np.full(30, 0.3), np.zeros(30), np.full(30, 0.3)]
        assert closures(mouth(rest)) == []

    def test_a_mouth_that_opens_from_rest_was_not_closed_before(self):
        assert closures(mouth(np.r_[np.zeros(40), 0.4 * bump(50, 20, 20)])) == []

    def test_at_another_rate_it_is_the_same_moment(self):
        slow = spoken([45])
        fine = np.linspace(0, 89, 178)
        values = np.stack([np.interp(fine, np.arange(90), c) for c in slow.values.T], axis=1).astype(np.float32)
        (found,) = closures(Channels(slow.names, values, Fraction(2 * RATE)))
        assert abs(found.peak / 2 - 45) <= 1

    def test_ease_finds_no_fewer(self):
        rng = np.random.default_rng(4)
        for _ in range(20):
            jaw = np.abs(np.cumsum(rng.normal(0, 0.05, 200)))
            strict, easy = ({e.peak for e in closures(mouth(jaw), ease)} for ease in (1.0, 0.75))
            assert len(easy) >= len(strict)

    def test_a_gap_is_no_closure(self):
        jaw = np.full(60, 0.3)
        jaw[20:28] = np.nan
        assert closures(mouth(jaw)) == []


class TestBlinks:
    def test_each_is_found_with_its_height(self):
        curve = (0.05 + 0.8 * bump(90, 30, 4) + 0.6 * bump(90, 60, 4)).astype(np.float32)
        assert [(e.peak, round(e.height, 2)) for e in blinks(curve, RATE)] == [(30, 0.85), (60, 0.65)]

    def test_a_lid_that_stays_down_does_not_blink(self):
        assert blinks(np.r_[np.zeros(20), np.ones(40), np.zeros(20)].astype(np.float32), RATE) == []

    def test_a_twitch_is_too_little(self):
        assert blinks((0.2 * bump(60, 30, 4)).astype(np.float32), RATE) == []


class TestCrests:
    def test_an_empty_curve_has_none(self):
        assert crests(np.empty(0), 0.1) == []

    @pytest.mark.parametrize("seed", range(5))
    def test_each_stands_out_by_the_rise_that_is_asked_for(self, seed):
        curve = np.cumsum(np.random.default_rng(seed).normal(0, 0.1, 300))
        for frame, before, after in crests(curve, 0.4):
            assert curve[frame] >= before + 0.4
            assert curve[frame] >= after + 0.4
