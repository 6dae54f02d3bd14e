from fractions import Fraction

import numpy as np
import pytest

from dynaface.core.curves.channels import Channels, Recording
from dynaface.core.curves.compare import jitter
from dynaface.core.curves.gaps import bridged, gap_frames
from dynaface.core.curves.timing import examine
from dynaface.core.errors import InputError, LimitError
from dynaface.core.tidy.stack import describe_stack, evaluate, parse_stack
from tests.makers import NAMES, channels, recording


def stack(*steps):
    return parse_stack({"dynafaceStack": 1, "steps": list(steps)})


EVEN = {"step": "even out time"}


def test_even_time_gives_back_what_was_even():
    given = recording()
    made = evaluate(given, stack(EVEN))
    assert made.frames == len(given.times)
    np.testing.assert_allclose(made.values, given.values, atol=1e-6)


def test_uneven_frames_land_on_the_curve_they_were_taken_from():
    given = recording(frames=600, jitter=0.4)
    made = evaluate(given, stack(EVEN))
    exact = evaluate(recording(frames=600, seed=1), stack(EVEN))
    phase = np.random.default_rng(1)
    phase.uniform(-0.4, 0.4, 600)
    truth_phase = phase.uniform(0, 6.28, len(NAMES))
    times = made.start + np.arange(made.frames) / 60
    truth = 0.5 + 0.4 * np.sin(2 * np.pi * times[:, None] * np.linspace(0.5, 2, len(NAMES)) + truth_phase)
    assert np.abs(made.values - truth)[3:-3].max() < 0.004
    assert exact.frames == 600


def test_nothing_overshoots_what_was_recorded():
    rng = np.random.default_rng(0)
    times = np.sort(rng.uniform(0, 2, 80))
    values = rng.choice([0.0, 1.0], (80, 3)).astype(np.float32)
    made = evaluate(
        Recording(("jawOpen", "mouthClose", "tongueOut"), times, values, Fraction(60)), stack({**EVEN, "bridge": 60})
    )
    assert np.nanmin(made.values) >= 0
    assert np.nanmax(made.values) <= 1


def test_doubled_frames_become_one():
    times = np.array([0, 1, 1.01, 2, 3]) / 60
    values = np.array([[0], [0.2], [0.4], [0.6], [0.9]], np.float32)
    made = evaluate(Recording(("jawOpen",), times, values, Fraction(60)), stack(EVEN))
    assert made.frames == 4
    assert made.values[1, 0] == pytest.approx(0.3, abs=0.01)


def test_short_losses_are_bridged_and_long_ones_stay_gaps():
    keep = np.r_[0:20, 24:50, 80:120]
    times = np.arange(120)[keep] / 60
    values = np.linspace(0, 1, 120)[keep, None].astype(np.float32)
    made = evaluate(Recording(("jawOpen",), times, values, Fraction(60)), stack({**EVEN, "bridge": 6}))
    assert np.isfinite(made.values[20:24]).all()
    np.testing.assert_allclose(made.values[20:24, 0], np.linspace(0, 1, 120)[20:24], atol=1e-4)
    assert np.isnan(made.values[52:78]).all()
    assert np.isfinite(made.values[80:]).all()


def test_time_stamps_in_the_wrong_unit_are_refused_not_filled():
    given = Recording(("jawOpen",), np.array([0.0, 1e6]), np.zeros((2, 1), np.float32), Fraction(60))
    with pytest.raises(LimitError, match="another unit"):
        evaluate(given, stack(EVEN))


@pytest.mark.parametrize("method", ["one-euro", "savitzky-golay"])
def test_smoothing_takes_jitter_out_and_keeps_the_blink(method):
    rng = np.random.default_rng(2)
    frames = np.arange(240)
    blink = np.exp(-0.5 * ((frames - 120) / 5.0) ** 2)
    noisy = (blink + rng.normal(0, 0.01, 240)).astype(np.float32)[:, None]
    made = evaluate(Channels(("eyeBlinkLeft",), noisy, Fraction(60)), stack({"step": "smooth", "method": method}))
    assert jitter(made.values[:, 0], 60) < 0.4 * jitter(noisy[:, 0], 60)
    assert made.values.max() > 0.9
    assert abs(int(made.values.argmax()) - 120) <= 1


def test_an_amount_of_zero_leaves_the_region_as_it_is():
    given = channels()
    made = evaluate(given, stack({"step": "smooth", "amount": {"jaw": 0.0}}))
    column = given.names.index("jawOpen")
    np.testing.assert_array_equal(made.values[:, column], given.values[:, column])


def test_strength_multiplies_and_shifts():
    given = channels()
    made = evaluate(
        given, stack({"step": "strength", "region": {"jaw": 0.5}, "gain": {"jawOpen": 1.2}, "offset": {"jawOpen": 0.1}})
    )
    np.testing.assert_allclose(made.column("jawOpen"), given.column("jawOpen") * 0.6 + 0.1, rtol=1e-5)
    np.testing.assert_array_equal(made.column("headNod"), given.column("headNod"))


def test_a_step_that_is_off_does_nothing():
    given = channels()
    made = evaluate(given, stack({"step": "strength", "on": False, "region": {"jaw": 0}}))
    np.testing.assert_array_equal(made.values, given.values)


def test_a_stack_comes_back_from_its_description():
    made = stack(
        EVEN, {"step": "smooth", "on": False, "amount": {"lips": 0.7}}, {"step": "strength", "gain": {"jawOpen": 1.5}}
    )
    assert parse_stack(describe_stack(made)) == made


@pytest.mark.parametrize(
    ("bad", "says"),
    [
        ({"steps": []}, "no tidy stack"), ([], "no tidy stack"), ({"dynafaceStack": 1, "steps": {}}, "must be a list"),
        ({"dynafaceStack": 1, "steps": [{"step": "polish"}]}, "no tidy step 'polish'"),
        ({"dynafaceStack": 1, "steps": [{"step": "smooth", "method": "magic"}]}, "method is 'magic'"),
        ({"dynafaceStack": 1, "steps": [{"step": "smooth", "amount": {"lips": 3}}]}, "amount.lips is 3"),
        ({"dynafaceStack": 1, "steps": [{"step": "smooth", "amount": {"elbow": 1}}]}, "no region"),
        ({"dynafaceStack": 1, "steps": [{"step": "smooth", "force": 1}]}, "force"),
        ({"dynafaceStack": 1, "steps": [{"step": "smooth", "on": "yes"}]}, "true or false"),
    ],
)  # fmt: skip
def test_bad_stacks_are_refused_with_the_value(bad, says):
    with pytest.raises(InputError, match=says):
        parse_stack(bad)


def test_timing_faults_are_counted():
    steps = np.ones(99)
    steps[[10, 20]] = [3, 2]  # three lost frames
    steps[30] = 0.05  # doubled
    steps[40] = 1.3  # uneven
    report = examine(np.concatenate([[0], np.cumsum(steps)]) / 60, Fraction(60))
    assert (report.dropped, report.doubled, report.uneven) == (3, 1, 1)
    assert report.longest_gap == pytest.approx(3 / 60)
    assert [f[1] for f in report.faults] == ["dropped", "dropped", "doubled", "uneven"]


def test_gaps_are_bridged_straight_for_the_character():
    values = np.array([[0.0], [np.nan], [np.nan], [0.6], [np.nan]], np.float32)
    np.testing.assert_allclose(bridged(values)[:, 0], [0, 0.2, 0.4, 0.6, 0.6], atol=1e-6)
    assert gap_frames(values) == 3
