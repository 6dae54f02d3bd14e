"""Blinks that are made: where, how, and in place of captured ones."""

from fractions import Fraction as Fr

import numpy as np
import pytest

from dynaface.core.curves.channels import Channels
from dynaface.core.curves.events import blinks
from dynaface.core.layers.blink import CLOSING, PAUSE, by_chance, course, moments
from dynaface.core.layers.layer import Layer, apply_layer
from dynaface.core.layers.maker import placed_maker

RATE = 60
NAMES = ("eyeBlinkLeft", "eyeBlinkRight", "eyeSquintLeft", "eyeLookOutLeft", "headTurn", "headNod", "headTilt")


def face(frames=600):
    """Lids that hang at .1, a squint that comes and goes."""
    values = np.zeros((frames, len(NAMES)), np.float32)
    values[:, :2] = 0.1
    values[:, 2] = 0.3 + 0.1 * np.sin(np.arange(frames) / 40)
    return Channels(NAMES, values, Fr(RATE))


def captured(peaks, frames=600):
    below = face(frames)
    values = below.values.copy()
    for peak in peaks:
        part = (np.arange(frames) - (peak - CLOSING * 15)) / 15
        values[:, :2] += (0.8 * course(part)).astype(np.float32)[:, None]
    return below.with_values(values)


def blinked(below, **given):
    return apply_layer(below, Layer("add", makers=(placed_maker("blinks", given),)))


def test_a_lid_closes_faster_than_it_opens_and_ends_at_rest():
    part = course(np.linspace(-0.2, 1.2, 1401))
    assert part.max() == pytest.approx(1)
    assert not part[:200].any()
    assert not part[1201:].any()
    assert CLOSING < 0.5
    assert np.abs(np.diff(part)).max() < 0.01


def test_chosen_frames_are_shut():
    made = blinked(face(), frames=[100, 300])
    for frame in (100, 300):
        assert made.column("eyeBlinkLeft")[frame] == pytest.approx(1, abs=0.02)
    assert len(blinks(made.column("eyeBlinkLeft"), RATE)) == 2
    np.testing.assert_array_equal(made.column("eyeBlinkLeft")[400:], face().column("eyeBlinkLeft")[400:])


def test_half_blinks_and_a_lid_that_is_low_already():
    assert blinked(face(), frames=[100], depth=0.5).column("eyeBlinkLeft").max() == pytest.approx(0.5, abs=0.01)
    low = face()
    low.values[:, 0] = 0.7
    assert blinked(low, frames=[100], depth=0.5).column("eyeBlinkLeft").max() == pytest.approx(0.7, abs=1e-6)


def test_the_right_lid_may_come_later():
    made = blinked(face(), frames=[100], apart=2.0)
    assert int(made.column("eyeBlinkRight").argmax()) - int(made.column("eyeBlinkLeft").argmax()) == 2


def test_they_come_where_eyes_dart_and_the_head_turns():
    below = face()
    below.values[200:, 3] = 0.5  # 20 degrees within a frame
    turn = np.clip((np.arange(600) - 400) / 20, 0, 1) * 40
    below.values[:, 4] = turn
    assert [abs(f - 200) <= 1 for f in moments(below, True, False)] == [True]
    (found,) = moments(below, False, True)
    assert 398 <= found <= 422
    assert moments(below, False, False) == []
    made = blinked(below, darts="yes", turns="yes")
    assert len(blinks(made.column("eyeBlinkLeft"), RATE)) == 2


def test_by_chance_has_its_rate_a_pause_and_the_same_moments_for_a_seed():
    found = by_chance(60 * 60 * 60, 60, 15, 3)
    assert len(found) == pytest.approx(900, rel=0.1)
    assert np.diff(found).min() >= int(PAUSE * 60)
    assert found == by_chance(60 * 60 * 60, 60, 15, 3)
    assert found != by_chance(60 * 60 * 60, 60, 15, 4)
    assert by_chance(600, 60, 0, 1) == []


def test_replaced_blinks_are_made_anew_and_nothing_else_changes():
    below = captured([120, 300, 450])
    made = blinked(below, captured="replace", squeeze=0.0, brow=0.0, dip=0.0)
    found = blinks(made.column("eyeBlinkLeft"), RATE)
    assert [abs(e.peak - p) <= 2 for e, p in zip(found, (120, 300, 450), strict=True)] == [True] * 3
    assert all(e.height == pytest.approx(1, abs=0.02) for e in found)  # captured ones reached .9
    np.testing.assert_array_equal(made.column("eyeSquintLeft"), below.column("eyeSquintLeft"))
    away = np.ones(600, bool)
    for peak in (120, 300, 450):
        away[peak - 15 : peak + 25] = False
    assert np.abs(made.column("eyeBlinkLeft") - below.column("eyeBlinkLeft"))[away].max() < 0.01
