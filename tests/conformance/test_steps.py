"""Every tidy step keeps the promises of its kind."""

import numpy as np
import pytest

from dynaface.core.curves.channels import Channels
from dynaface.core.parameters import complete
from dynaface.core.shapes.regions import REGIONS
from dynaface.core.tidy.stack import STEPS, placed, run_step
from dynaface.core.tidy.step import WHOLE
from tests.makers import NAMES, channels, recording

ALL = sorted(STEPS)
ON_CHANNELS = [n for n in ALL if STEPS[n].kind != "retiming"]


def variants(step):
    """Parameter sets: the defaults, and each choice and each end of each number."""
    yield {}
    for p in step.parameters:
        if p.kind == "choice":
            yield from ({p.name: o} for o in p.options)
        elif p.kind == "number":
            yield from ({p.name: v} for v in (p.low, p.high))
        elif p.kind == "frames":
            yield {p.name: [10, 45]}
        elif p.kind == "per_region":
            yield from ({p.name: dict.fromkeys(REGIONS, v)} for v in (p.low, p.high))
        else:
            yield from ({p.name: {"jawOpen": v}} for v in (p.low, p.high))


def given_for(step, frames=90):
    return recording(frames) if step.kind == "retiming" else channels(frames)


@pytest.mark.parametrize("name", ALL)
def test_shape_kept_input_unchanged_and_deterministic(name):
    step = STEPS[name]
    for variant in variants(step):
        parameters = complete(step.parameters, variant)
        given = given_for(step)
        before = given.values.copy()
        made = step.apply(given, parameters)
        assert isinstance(made, Channels)
        assert made.names == NAMES
        assert made.values.dtype == np.float32
        assert np.isfinite(made.values).all()
        np.testing.assert_array_equal(given.values, before)
        np.testing.assert_array_equal(step.apply(given_for(step), parameters).values, made.values)
        if step.kind != "retiming":
            assert made.values.shape == before.shape


@pytest.mark.parametrize("name", ALL)
@pytest.mark.parametrize("frames", [0, 1, 2, 3])
def test_empty_and_very_short_input(name, frames):
    step = STEPS[name]
    made = step.apply(given_for(step, frames), complete(step.parameters, {}))
    assert made.frames == frames


@pytest.mark.parametrize("name", ON_CHANNELS)
def test_gaps_are_kept_unless_the_step_fills_them(name):
    step = STEPS[name]
    given = channels()
    given.values[30:50] = np.nan
    given.values[70, 2] = np.nan
    for variant in variants(step):
        made = step.apply(given, complete(step.parameters, variant))
        if step.gaps == "kept":
            np.testing.assert_array_equal(np.isnan(made.values), np.isnan(given.values))
        else:
            assert not (np.isnan(made.values) & ~np.isnan(given.values)).any()


@pytest.mark.parametrize("name", ON_CHANNELS)
def test_halo_is_what_the_kind_promises(name):
    step = STEPS[name]
    given = channels(600)
    parameters = complete(step.parameters, {})
    changed = given.with_values(given.values.copy())
    changed.values[300] += 0.3
    apart = np.abs(step.apply(changed, parameters).values - step.apply(given, parameters).values).max(axis=1)
    halo = step.halo(parameters, 60.0)
    if halo == WHOLE:
        assert step.kind != "pointwise"
        return
    outside = np.r_[0 : max(0, 300 - halo), min(600, 301 + halo) : 600]
    assert apart[outside].max(initial=0) < 2e-3
    if step.kind == "pointwise":
        assert halo == 0


@pytest.mark.parametrize("name", ON_CHANNELS)
def test_outside_its_place_and_ramp_a_step_changes_nothing(name):
    step = STEPS[name]
    given = channels(600)
    given.values[250:254, 1] = np.nan
    for variant in variants(step):
        where = {"places": [{"channels": ["eyeBlinkLeft", "jawOpen"], "first": 200, "last": 330}], "ramp": 12}
        made = run_step(given, placed(name, variant | where)).values
        outside = np.ones(given.values.shape, bool)
        outside[188:343, [NAMES.index("eyeBlinkLeft"), NAMES.index("jawOpen")]] = False
        np.testing.assert_array_equal(made[outside], given.values[outside])


@pytest.mark.parametrize("name", ON_CHANNELS)
def test_a_mix_of_nothing_changes_nothing_and_a_mix_lies_between(name):
    step = STEPS[name]
    given = channels(200)
    for variant in variants(step):
        np.testing.assert_array_equal(run_step(given, placed(name, variant | {"mix": 0})).values, given.values)
        whole = run_step(given, placed(name, variant)).values
        half = run_step(given, placed(name, variant | {"mix": 0.5})).values
        np.testing.assert_allclose(half, 0.5 * (whole + given.values), atol=2e-5)


@pytest.mark.parametrize("name", ON_CHANNELS)
def test_a_place_gives_what_the_whole_take_would_give_there(name):
    """What is calculated on a window about a place is what would be calculated on the whole take."""
    step = STEPS[name]
    if step.within is not None:
        return
    given = channels(1500)
    for variant in variants(step):
        everywhere = run_step(given, placed(name, variant)).values
        there = run_step(given, placed(name, variant | {"places": [{"first": 700, "last": 720}]})).values
        np.testing.assert_allclose(there[700:721], everywhere[700:721], atol=2e-3)


@pytest.mark.parametrize("name", ALL)
def test_each_step_describes_itself(name):
    step = STEPS[name]
    assert step.label
    assert len(step.help) > 20
    assert len({p.name for p in step.parameters}) == len(step.parameters)
    for p in step.parameters:
        assert p.describe()["label"]
