"""Edits of keys, as properties that hold for any keys: order, one key a frame, what stays and what goes."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from dynaface.core.curves import key_edits
from dynaface.core.curves.keys import KINDS, Key, evaluate_keys, slopes
from dynaface.core.errors import InputError

VALUE = st.floats(-2, 2).map(lambda v: round(v, 3))
KIND = st.sampled_from(KINDS)


@st.composite
def some_keys(draw, least=1, most=8):
    """Keys on different whole frames, in order."""
    frames = sorted(draw(st.sets(st.integers(0, 120), min_size=least, max_size=most)))
    return tuple(Key(float(f), draw(VALUE), draw(VALUE) / 20, draw(VALUE) / 20, draw(KIND)) for f in frames)


@st.composite
def keys_and_chosen(draw, least=1):
    keys = draw(some_keys(least))
    chosen = draw(st.sets(st.integers(0, len(keys) - 1)))
    return keys, sorted(chosen)


def frames_of(keys):
    return [k.frame for k in keys]


def in_order(keys):
    frames = frames_of(keys)
    return all(a < b for a, b in zip(frames, frames[1:], strict=False))


@given(keys_and_chosen(), st.integers(-30, 30), VALUE)
def test_moved_keys_stay_in_order_and_the_moved_one_wins_a_frame(given_keys, frames, value):
    keys, chosen = given_keys
    made = key_edits.move(keys, chosen, frames, value)
    assert in_order(made)
    for i in chosen:
        at = keys[i].frame + frames
        assert any(k.frame == at and k.value == keys[i].value + value for k in made)
    others = [k for i, k in enumerate(keys) if i not in chosen]
    taken = {keys[i].frame + frames for i in chosen}
    assert all(k in made for k in others if k.frame not in taken)


@given(keys_and_chosen(), st.floats(-10, 10))
def test_moved_keys_lie_on_whole_frames_where_that_is_asked(given_keys, by):
    keys, chosen = given_keys
    assert all(k.frame == round(k.frame) for k in key_edits.move(keys, chosen, by, 0.0, snap=True))


@given(keys_and_chosen(), st.integers(-20, 20), VALUE)
def test_moving_all_keys_moves_the_curve(given_keys, frames, value):
    keys, _ = given_keys
    made = key_edits.move(keys, range(len(keys)), frames, value)
    np.testing.assert_allclose(evaluate_keys(made, 200, frames - 20), evaluate_keys(keys, 200, -20) + value, atol=1e-5)


@given(keys_and_chosen(), st.floats(0.5, 3), st.floats(0, 3))
def test_scaling_keeps_what_it_is_about(given_keys, time, value):
    keys, chosen = given_keys
    about, level = keys[0].frame, keys[0].value
    made = key_edits.scale(keys, chosen, about, time, level, value, snap=False)
    assert in_order(made)
    if 0 in chosen:
        assert any(k.frame == about and k.value == pytest.approx(level) for k in made)


@given(some_keys(2))
def test_scaling_all_keys_in_time_stretches_the_curve(keys):
    doubled = key_edits.scale(keys, range(len(keys)), 0, 2, 0, 1)
    np.testing.assert_allclose(evaluate_keys(doubled, 240)[::2], evaluate_keys(keys, 120), atol=1e-4)


@pytest.mark.parametrize("time", [0, -1, 101])
def test_a_time_that_turns_keys_round_is_refused(time):
    with pytest.raises(InputError, match="time"):
        key_edits.scale((Key(0, 0),), [0], 0, time, 0, 1)


@given(some_keys(2), st.integers(0, 120))
def test_an_inserted_key_lies_on_the_curve(keys, frame):
    made = key_edits.insert(keys, frame)
    assert in_order(made)
    assert evaluate_keys(made, 1, frame)[0] == pytest.approx(evaluate_keys(keys, 1, frame)[0], abs=1e-5)
    assert len(made) == len({*frames_of(keys), float(frame)})


@given(some_keys(), st.integers(0, 120), VALUE)
def test_a_key_inserted_with_a_value_has_it(keys, frame, value):
    made = key_edits.insert(keys, frame, value)
    assert evaluate_keys(made, 1, frame)[0] == pytest.approx(value, abs=1e-6)


@given(keys_and_chosen())
def test_deleting_takes_the_chosen_and_leaves_the_others_as_they_are(given_keys):
    keys, chosen = given_keys
    made = key_edits.delete(keys, chosen, refit=False)
    assert made == tuple(k for i, k in enumerate(keys) if i not in chosen)


@given(keys_and_chosen())
def test_deleting_with_a_fit_keeps_frames_and_values(given_keys):
    keys, chosen = given_keys
    kept = [k for i, k in enumerate(keys) if i not in chosen]
    made = key_edits.delete(keys, chosen, refit=True)
    assert [(k.frame, k.value) for k in made] == [(k.frame, k.value) for k in kept]


def test_a_fit_follows_the_curve_that_was_there():
    keys = (Key(0, 0, kind="flat"), Key(10, 0.55), Key(20, 1, kind="flat"))
    before = evaluate_keys(keys, 21)
    fitted = np.abs(evaluate_keys(key_edits.delete(keys, [1], refit=True), 21) - before).max()
    plain = np.abs(evaluate_keys(key_edits.delete(keys, [1], refit=False), 21) - before).max()
    assert fitted < plain
    assert fitted < 0.03


@given(keys_and_chosen(), KIND)
def test_tangents_change_no_value(given_keys, kind):
    keys, chosen = given_keys
    made = key_edits.tangents(keys, chosen, kind)
    assert [(k.frame, k.value) for k in made] == [(k.frame, k.value) for k in keys]
    assert all(made[i].kind == kind for i in chosen)


@given(some_keys(2))
def test_keys_set_free_change_nothing(keys):
    smooth = key_edits.tangents(keys, range(len(keys)), "smooth")
    freed = key_edits.tangents(smooth, range(len(keys)), "free")
    np.testing.assert_allclose(evaluate_keys(freed, 121), evaluate_keys(smooth, 121), atol=1e-6)


def test_tangents_that_there_are_not_are_refused():
    with pytest.raises(InputError, match="kind"):
        key_edits.tangents((Key(0, 0),), [0], "wavy")
    with pytest.raises(InputError, match="weight"):
        key_edits.tangents((Key(0, 0),), [0], "free", 2.0)


@given(keys_and_chosen(), VALUE)
def test_slopes_are_turned_on_one_side_alone(given_keys, slope):
    keys, chosen = given_keys
    made = key_edits.slope(keys, chosen, None, slope)
    settled = slopes(keys)
    for i in chosen:
        assert made[i].kind == "free"
        assert made[i].after == slope
        assert made[i].before == settled[i].before


@given(keys_and_chosen(), VALUE)
def test_typed_values_are_those_of_the_chosen(given_keys, value):
    keys, chosen = given_keys
    made = key_edits.values(keys, chosen, value)
    assert [k.value for k in made] == [value if i in chosen else k.value for i, k in enumerate(keys)]


@given(some_keys(), some_keys(), st.integers(0, 100), VALUE)
def test_pasted_keys_take_the_place_of_those_between(keys, copied, frame, value):
    made = key_edits.paste(keys, copied, frame, value)
    last = frame + copied[-1].frame - copied[0].frame
    inside = [k for k in made if frame <= k.frame <= last]
    assert [k.value for k in inside] == [k.value + value for k in copied]
    assert [k for k in made if not frame <= k.frame <= last] == [k for k in keys if not frame <= k.frame <= last]


def test_pasting_nothing_changes_nothing():
    keys = (Key(0, 1),)
    assert key_edits.paste(keys, (), 5, 1) == keys


@given(st.integers(10, 60), st.integers(20, 60))
def test_a_drawn_stretch_is_followed_within_its_tolerance(first, length):
    keys = (Key(0, 0.2), Key(120, 0.2))
    drawn = (0.5 + 0.3 * np.sin(np.arange(length) / 6)).astype(np.float32)
    made = key_edits.reshape(keys, first, drawn, 0.01)
    assert in_order(made)
    np.testing.assert_allclose(evaluate_keys(made, length, first), drawn, atol=0.011)
    assert {k.frame for k in made} >= {0.0, 120.0}


@given(st.floats(0, 1), st.integers(5, 40))
def test_a_brush_stays_within_its_size(amount, size):
    curve = np.random.default_rng(3).normal(0.5, 0.1, 200).astype(np.float32)
    made = key_edits.brushed(curve, 100, size, amount, "pull", 0.9)
    away = np.abs(np.arange(200) - 100) >= size
    np.testing.assert_array_equal(made[away], curve[away])
    assert made[100] == pytest.approx(curve[100] + (0.9 - curve[100]) * amount, abs=1e-5)


def test_a_smoothing_brush_calms_what_it_is_on():
    curve = np.random.default_rng(3).normal(0.5, 0.1, 200).astype(np.float32)
    made = key_edits.brushed(curve, 100, 40, 1.0, "smooth")
    middle = slice(90, 110)
    assert np.diff(made[middle]).std() < 0.3 * np.diff(curve[middle]).std()


def test_a_brush_of_no_known_way_is_refused():
    with pytest.raises(InputError, match="way"):
        key_edits.brushed(np.zeros(9, np.float32), 4, 3, 1, "blur")
