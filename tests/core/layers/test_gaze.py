"""Where eyes look: aims are met, darts keep to the main sequence, captured looks are found again."""

from fractions import Fraction

import numpy as np
import pytest

from dynaface.core.body.rotations import rotate
from dynaface.core.curves.channels import Channels
from dynaface.core.layers.around import Aim, Around
from dynaface.core.layers.gaze import (
    SIDES,
    angles_beneath,
    angles_of,
    dart_seconds,
    direction,
    eased,
    fixations,
    head_turns,
    limited,
    snap,
)
from dynaface.core.layers.layer import Layer, apply_layer
from dynaface.core.layers.maker import placed_maker
from dynaface.core.shapes.gaze import OUT_DEG
from dynaface.core.shapes.standard import HEAD_ANGLES

RATE = Fraction(60)
NEAR = Aim(np.array([0.4, 1.5, 1.1]))
ASIDE = Aim(np.array([-0.5, 1.7, 1.4]))
FAR_ASIDE = Aim(np.array([2.0, 1.6, 0.4]))
ON_NOSE = Aim(np.array([0.0, 1.55, 0.5]), on_head=True)
AROUND = Around(aims={"near": NEAR, "aside": ASIDE, "far aside": FAR_ASIDE, "nose": ON_NOSE})


def moving_head(frames=600):
    at = np.arange(frames) / 60
    values = [9 * np.sin(at * 1.5), 5 * np.cos(at * 1.1), 4 * np.sin(at * 0.7)]
    return Channels(HEAD_ANGLES, np.stack(values, axis=1).astype(np.float32), RATE)


def gazing(below, around=AROUND, looks=(), **given):
    table = {f"l{n}": list(row) for n, row in enumerate(looks)}
    quiet = {"steps": 0.0, "blinks": 0.0, **given}
    return apply_layer(below, Layer("add", makers=(placed_maker("gaze", {"looks": table, **quiet}),)), around)


def off(channels, aim, side, frame):
    """Degrees between where an eye of the result looks and the aim, worked out from the geometry alone."""
    head = head_turns(channels)[frame]
    pivot, rest = np.asarray(AROUND.eyes.pivot), np.asarray(getattr(AROUND.eyes, side))
    eye = pivot + rotate(head, rest - pivot)
    looks = rotate(head, direction(angles_beneath(channels, side)[frame]))
    there = (pivot + rotate(head, aim.at - pivot)) if aim.on_head else aim.at
    way = (there - eye) / np.linalg.norm(there - eye)
    return float(np.degrees(np.arccos(np.clip(looks @ way, -1, 1))))


@pytest.mark.parametrize("side", SIDES)
@pytest.mark.parametrize("head", [0.0, 0.4, 1.0])
@pytest.mark.parametrize(("name", "aim"), [("near", NEAR), ("aside", ASIDE), ("nose", ON_NOSE)])
def test_both_eyes_are_on_the_aim_while_the_head_moves(side, head, name, aim):
    result = gazing(moving_head(), looks=[(20, name)], head=head)
    assert max(off(result, aim, side, f) for f in range(40, 600, 7)) < 0.02


def test_the_head_does_what_the_eyes_cannot():
    result = gazing(Channels(HEAD_ANGLES, np.zeros((300, 3), np.float32), RATE), looks=[(20, "far aside")], head=0.0)
    assert result.column("headTurn")[200] > 15
    assert off(result, FAR_ASIDE, "left", 200) < 1.0
    assert abs(angles_beneath(result, "left")[200, 0]) <= OUT_DEG + 1e-3


def test_the_head_comes_later_than_the_eyes():
    still = Channels(HEAD_ANGLES, np.zeros((300, 3), np.float32), RATE)
    result = gazing(still, looks=[(20, "captured"), (100, "aside")], head=0.5, late=100.0)
    turn = np.abs(result.column("headTurn"))
    assert turn[106] == 0
    assert turn[200] > 3
    assert off(result, ASIDE, "left", 106) < 0.05


def test_eyes_meet_nearer_than_they_do_far_away():
    still = Channels(HEAD_ANGLES, np.zeros((60, 3), np.float32), RATE)

    def meets(metres, convergence=1.0):
        around = Around(aims={"a": Aim(np.array([0.0, 1.6, 0.09 + metres]))})
        result = gazing(still, around, [(0, "a")], convergence=convergence)
        left, right = (angles_beneath(result, s)[50, 0] for s in SIDES)
        return right - left  # turned toward each other: the left eye to its right

    assert meets(0.3) > meets(1.0) > meets(10.0) > 0
    assert meets(0.3, 0.0) == pytest.approx(0, abs=1e-4)


@pytest.mark.parametrize("degrees", [2.0, 10.0, 30.0])
def test_a_dart_takes_as_long_as_the_main_sequence_says(degrees):
    at = np.tan(np.radians(degrees))
    still = Channels(HEAD_ANGLES, np.zeros((2000, 3), np.float32), Fraction(1000))
    aims = {"front": Aim(np.array([0.0, 1.6, 0.09 + 50])), "side": Aim(np.array([50 * at, 1.6, 0.09 + 50]))}
    result = gazing(still, Around(aims=aims), [(0, "front"), (1000, "side")], head=0.0, convergence=0.0)
    turn = angles_beneath(result, "left")[:, 0]
    under_way = np.flatnonzero((turn > degrees * 0.001) & (turn < degrees * 0.999))
    assert len(under_way) / 1000 == pytest.approx(float(dart_seconds(degrees)), rel=0.25)
    assert under_way[0] >= 1000


def test_before_the_first_look_and_where_the_capture_counts_nothing_changes():
    below = moving_head()
    result = gazing(below, looks=[(100, "near"), (200, "captured")], head=0.0)
    for channel in result.names:
        np.testing.assert_array_equal(result.column(channel)[:100], np.nan_to_num(below.column(channel))[:100])
        np.testing.assert_allclose(result.column(channel)[230:], np.nan_to_num(below.column(channel))[230:], atol=1e-6)


def test_no_looks_make_nothing():
    below = moving_head()
    assert gazing(below).names == below.names


def test_captured_looks_are_found_at_their_aims():
    """A gaze that was made from looks is given back as these looks, wherever the head goes meanwhile."""
    looks = [(0, "near"), (120, "aside"), (260, "near"), (400, "aside")]
    captured = gazing(moving_head(), looks=looks, steps=0.3)
    found = snap(captured, Around(aims={"near": NEAR, "aside": ASIDE}), within=4.0)
    assert [name for _, name in found.looks] == ["near", "aside", "near", "aside"]
    np.testing.assert_allclose([f for f, _ in found.looks], [f for f, _ in looks], atol=3)
    assert found.missed == 0
    assert max(found.errors) < 1.0


def test_a_fixation_far_from_all_aims_is_held_where_it_is():
    captured = gazing(moving_head(), looks=[(0, "near"), (200, "aside")], head=0.0)
    found = snap(captured, Around(aims={"near": NEAR}), within=3.0)
    assert [name for _, name in found.looks] == ["near", "held"]
    again = gazing(captured, Around(aims={"near": NEAR}), found.looks, head=0.0)
    assert off(again, ASIDE, "left", 300) < 1.0


def test_fixations_do_not_overlap_and_lie_within():
    found = fixations(gazing(moving_head(), looks=[(0, "near"), (120, "aside"), (130, "near")]))
    assert all(a.last < b.first for a, b in zip(found, found[1:], strict=False))
    assert all(0 <= f.first <= f.last < 600 for f in found)


def test_a_large_dart_blinks_and_a_small_one_does_not():
    looks = [(0, "near"), (200, "aside")]
    assert gazing(moving_head(), looks=looks, blinks=25.0).column("eyeBlinkLeft")[195:225].max() > 0.9
    assert gazing(moving_head(), looks=looks, blinks=80.0).column("eyeBlinkLeft")[195:225].max() < 0.3


def test_lids_go_with_a_look_down():
    low = Around(aims={"low": Aim(np.array([0.0, 1.2, 0.8]))})
    lids = [
        gazing(moving_head(), low, [(0, "low")], lids=share, head=0.0).column("eyeBlinkLeft")[100]
        for share in (0.0, 1.0)
    ]
    assert lids[0] == 0
    assert 0.2 < lids[1] < 0.5


def test_a_look_at_an_aim_that_is_gone_leaves_the_capture():
    below = moving_head()
    assert gazing(below, looks=[(50, "gone")]).names == below.names


def test_angles_and_directions_are_one_another():
    angles = np.random.default_rng(3).uniform(-60, 60, (50, 2))
    np.testing.assert_allclose(angles_of(direction(angles)), angles, atol=1e-9)


def test_limits_keep_what_is_within():
    inside = np.array([[10.0, -5.0]])
    np.testing.assert_array_equal(limited(inside, "left"), inside)
    assert eased(np.array([-1.0, 0.0, 0.5, 1.0, 2.0])).tolist() == [0, 0, 0.5, 1, 1]
