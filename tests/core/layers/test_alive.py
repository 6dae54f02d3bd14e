"""What keeps a waiting character alive."""

from fractions import Fraction as Fr

import numpy as np
import pytest

from dynaface.core.curves.channels import Channels
from dynaface.core.layers.layer import Layer, apply_layer
from dynaface.core.layers.maker import placed_maker
from dynaface.core.layers.makers.alive import waiting

NAMES = ("jawOpen", "mouthSmileLeft", "headTurn", "headNod", "headTilt")


def scene(frames=900):
    """Speaks for the middle third, waits before and after."""
    values = np.zeros((frames, len(NAMES)), np.float32)
    at = np.arange(frames)
    speaks = (at > 300) & (at < 600)
    values[:, 0] = np.where(speaks, 0.3 + 0.3 * np.sin(at / 4), 0.02)
    return Channels(NAMES, values, Fr(60))


def alive(below, **given):
    return apply_layer(below, Layer("add", makers=(placed_maker("alive", given),)))


def test_it_is_found_where_a_character_waits():
    found = waiting(scene())
    assert found[120] == pytest.approx(1)
    assert found[750] == pytest.approx(1)
    assert not found[320:580].any()
    assert np.abs(np.diff(found)).max() < 0.1


def test_what_is_spoken_stays_as_it_is_and_what_waits_moves_a_little():
    below = scene()
    made = alive(below)
    for name in NAMES:
        np.testing.assert_array_equal(made.column(name)[340:560], below.column(name)[340:560])
    waits = made.column("headTurn")[60:240]
    assert 0.05 < np.ptp(waits) < 3
    assert np.abs(np.diff(made.column("headNod")[60:240])).max() < 0.2  # nothing pops


def test_eyes_hold_and_step_together():
    made = alive(scene(), where="everywhere", eyes=1.0)
    look = made.column("eyeLookOutLeft") - made.column("eyeLookInLeft")
    other = made.column("eyeLookInRight") - made.column("eyeLookOutRight")
    np.testing.assert_allclose(look, other, atol=1e-6)
    steps = np.count_nonzero(np.abs(np.diff(look)) > 1e-6)
    assert 8 <= steps <= 40  # in fifteen seconds


def test_another_number_gives_other_movements():
    one, same, other = (alive(scene(), seed=s).column("headTurn") for s in (1, 1, 2))
    np.testing.assert_array_equal(one, same)
    assert np.abs(one - other).max() > 0.05


def test_a_face_that_never_waits_is_left_alone():
    below = scene()
    busy = below.with_values(np.resize(below.values[310:590], below.values.shape))
    assert np.abs(alive(busy).column("headTurn")).max() == 0
