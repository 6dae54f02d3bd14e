"""What each tidy step is for, with known answers."""

from fractions import Fraction

import numpy as np
import pytest
from scipy.signal import butter, sosfiltfilt

from dynaface.core.curves.channels import Channels
from dynaface.core.curves.compare import jitter
from dynaface.core.curves.events import blinks, closures
from dynaface.core.curves.lowpass import low_pass
from dynaface.core.curves.medians import moving_median
from dynaface.core.curves.noise import noise_of
from dynaface.core.tidy.stack import placed, run_step
from dynaface.core.tidy.steps.put_in_blinks import profile
from dynaface.sims.long_take import long_take


def made(columns, rate=60):
    """Channels from {name: values}."""
    return Channels(tuple(columns), np.stack(list(columns.values()), axis=1).astype(np.float32), Fraction(rate))


def run(channels, name, **given):
    return run_step(channels, placed(name, given))


def wave(frames=240, height=0.3, period=60.0):
    return 0.5 + height * np.sin(2 * np.pi * np.arange(frames) / period)


def test_low_pass_is_what_scipy_gives_and_gaps_part_the_curve():
    rng = np.random.default_rng(1)
    values = rng.normal(0, 1, (400, 5)).astype(np.float32)
    theirs = sosfiltfilt(butter(4, 6, fs=60, output="sos"), values, axis=0)
    np.testing.assert_allclose(low_pass(values, 6, 60), theirs, atol=2e-5)
    values[200:210, 2] = np.nan
    ours = low_pass(values, 6, 60)
    assert np.isnan(ours[200:210, 2]).all()
    np.testing.assert_allclose(ours[:200, 2], low_pass(values[:200, 2:3], 6, 60)[:, 0], atol=1e-6)


@pytest.mark.parametrize("half", [1, 3, 6])
def test_moving_medians_are_exact(half):
    values = np.random.default_rng(2).normal(0, 1, (80, 3)).astype(np.float32)
    padded = np.concatenate([np.repeat(values[:1], half, 0), values, np.repeat(values[-1:], half, 0)])
    windows = np.lib.stride_tricks.sliding_window_view(padded, 2 * half + 1, axis=0)
    middle = np.median(windows, axis=-1)
    spread = np.median(np.abs(windows - middle[..., None]), axis=-1) * 1.4826
    ours = moving_median(values, half)
    np.testing.assert_array_equal(ours[0], middle.astype(np.float32))
    np.testing.assert_allclose(ours[1], spread, rtol=1e-5)


def test_noise_is_told_from_the_curve_alone():
    truth, _, _ = long_take(5, 3)
    for size in (0.004, 0.02):
        noisy = truth.values[:, :52] + np.random.default_rng(1).normal(0, size, (truth.frames, 52))
        assert np.median(noise_of(noisy)) == pytest.approx(size, rel=0.1)


def test_smoothing_that_fits_the_motion_halves_the_error_and_keeps_each_blink_and_closure():
    truth, _, _ = long_take(6, 3)
    noisy = truth.with_values(
        (truth.values + np.random.default_rng(3).normal(0, 0.01, truth.values.shape)).astype(np.float32)
    )
    tidied = run(noisy, "smooth", method="fit to motion", amount=dict.fromkeys(("lids", "lips", "jaw", "brows", "gaze"), 0.5),
                 keep="blinks and closures")  # fmt: skip
    before, after = (np.sqrt(np.mean((c.values - truth.values)[:, :52] ** 2)) for c in (noisy, tidied))
    assert after < 0.5 * before
    lid = "eyeBlinkLeft"
    assert len(blinks(tidied.column(lid), 60)) == len(blinks(truth.column(lid), 60))
    assert len(closures(tidied)) >= len(closures(truth))


def test_what_is_kept_sharp_stays_sharp_under_a_heavy_hand():
    lid = 0.05 + 0.93 * profile(np.arange(300) / 60 - 2.0)
    given = made({"eyeBlinkLeft": lid + np.random.default_rng(1).normal(0, 0.005, 300)})
    heavy = {"method": "low-pass", "amount": {"lids": 1.0}}
    blunt, sharp = run(given, "smooth", **heavy), run(given, "smooth", keep="blinks and closures", **heavy)
    assert blunt.values.max() < 0.8
    assert sharp.values.max() > 0.93
    assert jitter(sharp.values[:90, 0], 60) < 0.2 * jitter(given.values[:90, 0], 60)


@pytest.mark.parametrize("slope", [0.0, 0.01])
def test_spikes_go_and_a_slope_goes_on_through_them(slope):
    clean = 0.2 + slope * np.arange(60)
    spiky = clean.copy()
    spiky[[20, 40, 41]] += [0.4, -0.3, -0.3]
    np.testing.assert_allclose(run(made({"jawOpen": spiky}), "remove spikes").values[:, 0], clean, atol=1e-3)


def test_a_gap_is_filled_with_the_slopes_beside_it():
    clean = wave()
    holed = clean.copy()
    holed[100:108] = np.nan
    filled = run(made({"jawOpen": holed}), "fill gaps").values[:, 0]
    assert np.abs(filled - clean).max() < 0.02
    assert np.isnan(run(made({"jawOpen": holed}), "fill gaps", longest=5).values[100:108, 0]).all()


def test_a_gap_is_filled_from_the_other_side_and_meets_both_edges():
    left, right = wave(), wave() * 0.8
    holed = left.copy()
    holed[90:130] = np.nan
    filled = run(made({"mouthSmileLeft": holed, "mouthSmileRight": right}), "fill gaps", **{"from": "mirrored side"})
    assert np.abs(filled.values[:, 0] - left).max() < 0.1
    assert np.abs(np.diff(filled.values[:, 0])).max() < 0.05


def test_bridging_throws_away_what_is_in_the_place_and_needs_one():
    clean = wave()
    wild = clean.copy()
    wild[100:108] = np.random.default_rng(1).uniform(0, 1, 8)
    given = made({"jawOpen": wild})
    place = [{"channels": ["jawOpen"], "first": 100, "last": 107}]
    assert np.abs(run(given, "bridge over", places=place).values[:, 0] - clean).max() < 0.02
    np.testing.assert_array_equal(run(given, "bridge over").values, given.values)


def test_a_limit_is_hard_or_soft_and_angles_have_none():
    ramp = np.linspace(-0.3, 1.4, 100)
    given = made({"jawOpen": ramp, "headTurn": ramp * 40})
    hard = run(given, "limit range").values
    np.testing.assert_allclose(hard[:, 0], np.clip(ramp, 0, 1), atol=1e-6)
    np.testing.assert_array_equal(hard[:, 1], given.values[:, 1])
    soft = run(given, "limit range", knee=0.2).values[:, 0]
    assert soft.max() < 1
    assert soft.min() > 0
    assert (np.diff(soft) > 0).all()


def test_a_response_keeps_its_ends_and_bends_between_them():
    given = made({"jawOpen": np.linspace(0, 1, 11)})
    lifted = run(given, "response curve", bend=1.0).values[:, 0]
    np.testing.assert_allclose(lifted, np.sqrt(np.linspace(0, 1, 11)), atol=1e-5)
    gated = run(given, "response curve", **{"from": 0.2}).values[:, 0]
    assert gated[2] == 0
    assert gated[-1] == pytest.approx(1)


def test_drift_is_taken_out_and_a_take_without_any_is_left_alone():
    frames = np.arange(1800)
    speech = np.clip(np.sin(frames / 20), 0, 1) * 0.4
    drifting = made({"browInnerUp": speech + np.linspace(0, 0.25, 1800), "jawOpen": speech})
    tidied = run(drifting, "re-zero").values
    assert np.abs(tidied[:, 0] - speech).max() < 0.04
    assert np.abs(tidied[:, 1] - speech).max() < 0.02


def test_chosen_moments_are_brought_to_rest():
    given = made({"browInnerUp": np.linspace(0.1, 0.3, 200)})
    tidied = run(given, "re-zero", by="chosen moments", moments=[20, 180]).values[:, 0]
    np.testing.assert_allclose(tidied[20:181], 0, atol=2e-3)


def test_sides_are_averaged_led_or_timed_alike_and_eyes_look_one_way():
    seconds = np.arange(240) / 60
    left, right = 0.95 * profile(seconds - 2.0), 0.75 * profile(seconds - 2.06)
    given = made({"eyeBlinkLeft": left, "eyeBlinkRight": right})
    np.testing.assert_allclose(run(given, "pair sides").values[:, 0], (left + right) / 2, atol=1e-6)
    led = run(given, "pair sides", way="right leads").values
    np.testing.assert_array_equal(led[:, 0], given.values[:, 1])
    timed = run(given, "pair sides", way="same timing").values
    assert abs(int(timed[:, 0].argmax()) - int(timed[:, 1].argmax())) <= 1
    assert timed[:, 0].max() > 1.1 * timed[:, 1].max()
    looks = made({"eyeLookOutLeft": wave(), "eyeLookInRight": wave() + 0.2, "eyeLookOutRight": wave() * 0})
    eyes = run(looks, "pair sides").values
    np.testing.assert_array_equal(eyes[:, 0], eyes[:, 1])


def test_opposing_shapes_keep_their_difference():
    given = made({"mouthSmileLeft": np.full(5, 0.5), "mouthFrownLeft": np.full(5, 0.2)})
    apart = run(given, "hold opposing apart").values
    np.testing.assert_allclose(apart[0], [0.3, 0.0], atol=1e-6)


def test_small_motion_is_held_and_large_motion_stays():
    frames = np.arange(600)
    small = 0.3 + 0.01 * np.sin(frames / 3)
    large = 0.5 + 0.3 * np.sin(frames / 6)
    gated = run(made({"browInnerUp": small, "jawOpen": large}), "gate small motion").values
    assert gated[100:500, 0].std() < 0.1 * small.std()
    assert gated[100:500, 1].std() > 0.9 * large.std()


def test_a_region_moves_in_time_by_parts_of_a_frame_as_well():
    given = made({"jawOpen": wave(), "headTurn": wave()})
    later = run(given, "shift in time", frames={"jaw": 3.5})
    np.testing.assert_allclose(
        later.values[10:230, 0], 0.5 + 0.3 * np.sin(2 * np.pi * (np.arange(10, 230) - 3.5) / 60), atol=2e-3
    )
    np.testing.assert_array_equal(later.values[:, 1], given.values[:, 1])


def test_the_take_begins_and_ends_at_rest():
    eased = run(made({"jawOpen": np.ones(60)}), "ease to rest", start=10, end=20).values[:, 0]
    assert eased[0] == eased[-1] == 0
    assert (eased[10:40] == 1).all()


def test_neutral_is_blended_in_over_a_range():
    faded = run(made({"jawOpen": np.ones(60)}), "blend to neutral", places=[{"first": 20, "last": 30}], ramp=5).values[
        :, 0
    ]
    assert (faded[20:31] == 0).all()
    assert faded[14] == faded[36] == 1


def test_blinks_are_put_in_where_they_are_asked_for_and_close_faster_than_they_open():
    lids = run(
        made({"eyeBlinkLeft": np.full(120, 0.1), "eyeBlinkRight": np.full(120, 0.1)}), "put in blinks", frames=[60]
    )
    found = blinks(lids.values[:, 0], 60)
    assert [abs(b.peak - 60) <= 1 for b in found] == [True]
    assert found[0].peak - found[0].first < found[0].last - found[0].peak
