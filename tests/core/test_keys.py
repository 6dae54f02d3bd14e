"""Keys: evaluating, reducing, editing."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.ndimage import gaussian_filter1d

from dynaface.core.curves import key_edits
from dynaface.core.curves.events import blinks
from dynaface.core.curves.keys import Key, evaluate_keys, keys_at, parse_keys, slopes
from dynaface.core.curves.reduce import reduce
from dynaface.core.errors import InputError
from dynaface.core.tidy.steps.put_in_blinks import profile

STRAIGHT = (Key(0, 0.0, kind="linear"), Key(10, 1.0, kind="linear"))


def smooth_curve(seed, frames=600, blinking=True):
    rng = np.random.default_rng(seed)
    slow = gaussian_filter1d(rng.normal(0, 1, frames), 25)
    curve = 0.3 + 0.12 * slow / slow.std()
    if blinking:
        for at in np.arange(1.0, frames / 60 - 1, 3.0):
            curve = np.maximum(curve, 0.97 * profile(np.arange(frames) / 60 - at))
    return np.clip(curve, 0, 1).astype(np.float32)


def test_linear_stepped_flat_and_held_ends():
    np.testing.assert_allclose(evaluate_keys(STRAIGHT, 14)[:12], [*np.arange(11) / 10, 1], atol=1e-6)
    stepped = evaluate_keys((Key(0, 0.2, kind="stepped"), Key(5, 0.8, kind="flat")), 8)
    np.testing.assert_allclose(stepped, [0.2] * 5 + [0.8] * 3, atol=1e-6)
    eased = evaluate_keys((Key(0, 0, kind="flat"), Key(10, 1, kind="flat")), 11)
    assert eased[5] == pytest.approx(0.5)
    assert eased[1] < 0.05


def test_smooth_keys_do_not_overshoot():
    keys = tuple(Key(f * 7, v) for f, v in enumerate([0, 0.1, 0.9, 1.0, 1.0, 0.2]))
    curve = evaluate_keys(keys, 36)
    assert curve.min() >= -1e-6
    assert curve.max() <= 1 + 1e-6


def test_a_weighted_tangent_holds_its_slope_longer():
    light = (Key(0, 0, 0, 0.2, "free"), Key(20, 1, 0, 0, "free"))
    heavy = (Key(0, 0, 0, 0.2, "free", 1 / 3, 0.8), Key(20, 1, 0, 0, "free"))
    assert evaluate_keys(heavy, 21)[5] == pytest.approx(1.0, abs=0.12)
    assert evaluate_keys(heavy, 21)[5] > evaluate_keys(light, 21)[5] + 0.1


@pytest.mark.parametrize(
    ("rows", "says"),
    [
        ("no", "list"), ([[0, 0, 0, 0]], "a key is"), ([[0, 0, 0, 0, "curly"]], "curly"), ([[5, 0, 0, 0, "flat"], [5, 1, 0, 0, "flat"]], "follows"),
        ([[0, float("nan"), 0, 0, "flat"]], "numbers"), ([[0, 0, 0, 0, "free", 0.5, 3]], "beyond"), ([[0, True, 0, 0, "flat"]], "numbers"),
    ],
)  # fmt: skip
def test_rows_that_are_no_keys_are_refused(rows, says):
    with pytest.raises(InputError, match=says):
        parse_keys(rows, "jawOpen")


def test_keys_come_back_from_plain_data():
    keys = (Key(0, 0.25, 0.125, 0.5, "free"), Key(7, 1, 0, 0, "flat", 0.5, 0.25))
    assert parse_keys([k.plain() for k in keys]) == keys


@settings(deadline=None, max_examples=25)
@given(st.integers(0, 10_000), st.sampled_from([0.002, 0.005, 0.02, 0.08]), st.booleans())
def test_reduction_is_never_over_its_tolerance(seed, tolerance, rough):
    curve = smooth_curve(seed)
    if rough:
        rng = np.random.default_rng(seed)
        curve = curve + rng.normal(0, 0.01, len(curve)).astype(np.float32)
        curve[rng.integers(0, len(curve), 5)] += 0.4
    made = reduce(curve, 60, tolerance)
    assert np.abs(evaluate_keys(made.keys, len(curve)) - curve).max() <= tolerance
    assert made.worst <= tolerance
    frames = [k.frame for k in made.keys]
    assert frames == sorted(set(frames))


def test_a_smooth_curve_needs_few_keys_and_stays_smooth():
    curve = smooth_curve(3, 3600, blinking=False)
    made = reduce(curve, 60)
    assert 3600 / len(made.keys) > 25
    assert all(k.before == k.after for k in made.keys)


def test_holds_and_extremes_are_flat_and_a_corner_keeps_both_its_slopes():
    curve = np.concatenate([np.zeros(60), np.linspace(0, 0.8, 40), np.full(60, 0.8)]).astype(np.float32)
    made = slopes(reduce(curve, 60).keys)
    held = [k for k in made if k.frame < 50 or k.frame > 110]
    assert all(abs(k.before) < 1e-3 and abs(k.after) < 1e-3 for k in held if 0 < k.frame < 159)
    corners = [k for k in made if k.kind == "free" and abs(k.before - k.after) > 0.01]
    assert {round(k.frame) for k in corners} <= {59, 60, 61, 98, 99, 100, 101}
    assert corners


@pytest.mark.parametrize("tolerance", [0.005, 0.05, 0.15])
def test_each_blink_keeps_three_keys(tolerance):
    curve = (0.97 * profile(np.arange(240) / 60 - 2)).astype(np.float32)
    keys = reduce(curve, 60, tolerance).keys
    (blink,) = blinks(curve, 60)
    assert sum(blink.first - 4 <= k.frame <= blink.last + 5 for k in keys) >= 3


def test_gaps_are_bridged_and_nothing_known_gives_no_keys():
    curve = smooth_curve(1)
    curve[100:110] = np.nan
    assert np.isfinite(evaluate_keys(reduce(curve, 60).keys, 600)).all()
    assert reduce(np.full(10, np.nan, np.float32), 60).keys == ()
    assert len(reduce(np.array([0.1, 0.2], np.float32), 60).keys) == 2


KEYS = (Key(0, 0.0), Key(10, 0.5), Key(20, 1.0), Key(30, 0.2))


def test_moving_keeps_order_and_the_moved_key_wins():
    made = key_edits.move(KEYS, {1}, 15, 0.1)
    assert [k.frame for k in made] == [0, 20, 25, 30]
    onto = key_edits.move(KEYS, {1}, 10, 0.0)
    assert [(k.frame, k.value) for k in onto] == [(0, 0.0), (20, 0.5), (30, 0.2)]
    assert key_edits.move(KEYS, {1}, 0.4, 0, snap=False)[1].frame == pytest.approx(10.4)


def test_scaling_about_a_frame_and_a_value():
    made = key_edits.scale(KEYS, {1, 2}, about=10, time=0.5, level=0.5, value=2)
    assert [(k.frame, k.value) for k in made] == [(0, 0.0), (10, 0.5), (15, 1.5), (30, 0.2)]


def test_a_key_put_on_the_curve_hardly_changes_it():
    before = evaluate_keys(KEYS, 31)
    after = evaluate_keys(key_edits.insert(KEYS, 15), 31)
    assert np.abs(after - before).max() < 0.03


def test_deleting_with_a_fit_stays_closer_than_without():
    old = evaluate_keys(KEYS, 31)
    fitted = np.abs(evaluate_keys(key_edits.delete(KEYS, {1}, True), 31) - old).max()
    plain = np.abs(evaluate_keys(key_edits.delete(KEYS, {1}, False), 31) - old).max()
    assert fitted <= plain
    assert len(key_edits.delete(KEYS, {0, 3}, False)) == 2


def test_pasting_replaces_what_lay_there():
    made = key_edits.paste(KEYS, (Key(100, 0.3), Key(108, 0.4)), 8, 0.1)
    assert [(k.frame, round(k.value, 3)) for k in made] == [(0, 0.0), (8, 0.4), (16, 0.5), (20, 1.0), (30, 0.2)]


def test_tangents_set_free_keep_the_slope_they_had():
    free = key_edits.tangents(KEYS, {1}, "free")
    np.testing.assert_allclose(evaluate_keys(free, 31), evaluate_keys(KEYS, 31), atol=1e-6)
    assert key_edits.tangents(KEYS, {1}, "flat", 0.5)[1].weight_after == 0.5
    assert key_edits.slope(KEYS, {2}, None, 0.3)[2].after == 0.3
    assert key_edits.values(KEYS, {0, 3}, 0.7)[3].value == 0.7


def test_reshaping_a_stretch_leaves_the_rest_alone():
    keys = reduce(smooth_curve(7), 60).keys
    old = evaluate_keys(keys, 600)
    drawn = np.linspace(0.1, 0.9, 60).astype(np.float32)
    new = evaluate_keys(key_edits.reshape(keys, 200, drawn), 600)
    np.testing.assert_allclose(new[200:260], drawn, atol=0.006)
    np.testing.assert_allclose(np.delete(new, np.s_[150:310]), np.delete(old, np.s_[150:310]), atol=2e-5)


def test_a_brush_is_soft_and_pulls_or_smooths():
    curve = smooth_curve(9)
    pulled = key_edits.brushed(curve, 300, 20, 1.0, "pull", 0.9)
    assert pulled[300] == pytest.approx(0.9)
    np.testing.assert_array_equal(pulled[:280], curve[:280])
    rough = curve + np.random.default_rng(1).normal(0, 0.05, 600).astype(np.float32)
    smoothed = key_edits.brushed(rough, 300, 40, 1.0, "smooth")
    assert np.std(np.diff(smoothed[285:315])) < 0.5 * np.std(np.diff(rough[285:315]))


def test_a_key_between_two_frames_takes_the_curve_s_value_there():
    at = 6.25
    made = key_edits.insert(KEYS, at)
    key = next(k for k in made if k.frame == at)
    assert key.value == pytest.approx(float(keys_at(KEYS, np.array([at]))[0]))
    whole = next(k for k in key_edits.insert(KEYS, 6.0) if k.frame == 6.0)
    assert key.value != pytest.approx(whole.value, abs=1e-4)
    np.testing.assert_allclose(evaluate_keys(made, 20), evaluate_keys(KEYS, 20), atol=0.03)
