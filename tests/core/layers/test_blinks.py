"""Blinks that are made: where, how, and in place of captured ones."""

from fractions import Fraction as Fr

import numpy as np
import pytest

from dynaface.core.curves.channels import Channels
from dynaface.core.curves.events import blinks
from dynaface.core.errors import InputError
from dynaface.core.layers.around import Around
from dynaface.core.layers.blink import PAUSE, by_chance, moments, varied
from dynaface.core.layers.layer import Layer, apply_layer
from dynaface.core.layers.maker import placed_maker
from dynaface.core.layers.profile import BUILT_IN, Profile

RATE = 60
PLAIN = BUILT_IN["plain"]
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
        part = (np.arange(frames) - (peak - PLAIN.closing * 15)) / 15
        values[:, :2] += (0.8 * PLAIN.upper_at(part)).astype(np.float32)[:, None]
    return below.with_values(values)


def blinked(below, **given):
    return apply_layer(below, Layer("add", makers=(placed_maker("blinks", given),)))


def test_a_lid_closes_faster_than_it_opens_and_ends_at_rest():
    part = PLAIN.upper_at(np.linspace(-0.2, 1.2, 1401))
    assert part.max() == pytest.approx(1)
    assert not part[:200].any()
    assert not part[1201:].any()
    assert PLAIN.closing < 0.5
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


@pytest.mark.parametrize("name", BUILT_IN)
def test_each_profile_shuts_the_eye_without_a_step_and_opens_it_again(name):
    profile = BUILT_IN[name]
    part = np.linspace(0, 1, 1001)
    for curve in (profile.upper_at(part), profile.lower_at(part)):
        assert curve[0] == curve[-1] == 0
        assert 0.4 < curve.max() <= 1
        assert np.abs(np.diff(curve)).max() < 0.012
    # It closes faster than it opens.
    upper = profile.upper_at(part)
    assert np.diff(upper).max() > -np.diff(upper).min()


@pytest.mark.parametrize(
    "points",
    [
        ((0, 0), (1, 0)),
        ((0, 0.1), (0.3, 1), (1, 0)),
        ((0, 0), (0.3, 1), (0.9, 0)),
        ((0, 0), (0.3, 1), (0.3, 0.5), (1, 0)),
        ((0, 0), (0.3, 1.2), (1, 0)),
    ],
)
def test_a_curve_that_is_no_blink_is_refused(points):
    with pytest.raises(InputError):
        Profile(points, PLAIN.lower)


def test_blinks_follow_their_profile_when_it_is_edited():
    own = Profile(((0, 0), (0.6, 1), (1, 0)), PLAIN.lower)
    layer = Layer("add", makers=(placed_maker("blinks", {"frames": [100], "profile": "slow"}),))
    plain = apply_layer(face(), layer, Around()).column("eyeBlinkLeft")
    slow = apply_layer(face(), layer, Around(profiles={"slow": own})).column("eyeBlinkLeft")
    assert np.argmax(plain) == np.argmax(slow) == 100
    # Ten frames of 18 before it is shut instead of five.
    assert slow[92] > plain[92] + 0.1


def test_what_varies_is_the_same_for_the_same_seed_and_for_each_blink_alone():
    first = varied([50, 200, 400], RATE, 2.0, 0.5, 0.5, seed=3)
    assert first == varied([50, 200, 400], RATE, 2.0, 0.5, 0.5, seed=3)
    assert first != varied([50, 200, 400], RATE, 2.0, 0.5, 0.5, seed=4)
    assert [b for b in first if b.peak < 150] == varied([50], RATE, 2.0, 0.5, 0.5, seed=3)
    many = varied(range(0, 40_000, 100), RATE, 2.0, 0.3, 0.2, seed=1)
    own = [b for b in many if b.peak % 100 == 0]
    assert len(many) - len(own) == pytest.approx(80, abs=25)
    assert sum(b.share < 1 for b in own) == pytest.approx(120, abs=30)
    assert max(abs(b.late) for b in own) <= 2
    assert np.std([b.late for b in own]) == pytest.approx(2 / np.sqrt(3), rel=0.15)


def test_double_blinks_shut_the_eye_twice_and_half_ones_half():
    twice = blinked(face(), frames=[100], double=1.0).column("eyeBlinkLeft")
    assert len(blinks(twice, RATE)) == 2
    assert blinked(face(), frames=[100], half=1.0).column("eyeBlinkLeft").max() == pytest.approx(0.55, abs=0.02)


def test_a_loosened_blink_is_no_longer_made_and_the_others_stay():
    made = blinked(face(), frames=[100, 300], loose=[102]).column("eyeBlinkLeft")
    assert [e.peak for e in blinks(made, RATE)] == [pytest.approx(300, abs=1)]
