"""Every tidy step keeps the promises of its kind."""

import numpy as np
import pytest

from dynaface.core.curves.channels import Channels
from dynaface.core.parameters import complete
from dynaface.core.shapes.regions import REGIONS
from dynaface.core.tidy.stack import STEPS
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
def test_gaps_are_kept(name):
    step = STEPS[name]
    given = channels()
    given.values[30:50] = np.nan
    given.values[70, 2] = np.nan
    for variant in variants(step):
        made = step.apply(given, complete(step.parameters, variant))
        np.testing.assert_array_equal(np.isnan(made.values), np.isnan(given.values))


@pytest.mark.parametrize("name", ON_CHANNELS)
def test_reach_is_what_the_kind_promises(name):
    step = STEPS[name]
    given = channels(600)
    parameters = complete(step.parameters, {})
    changed = given.with_values(given.values.copy())
    changed.values[300] += 0.3
    apart = np.abs(step.apply(changed, parameters).values - step.apply(given, parameters).values).max(axis=1)
    reach = step.reach(parameters, 60.0)
    outside = np.r_[0 : max(0, 300 - reach), min(600, 301 + reach) : 600]
    assert apart[outside].max(initial=0) < 2e-3
    if step.kind == "pointwise":
        assert reach == 0


@pytest.mark.parametrize("name", ALL)
def test_each_step_describes_itself(name):
    step = STEPS[name]
    assert step.label
    assert len(step.help) > 20
    assert len({p.name for p in step.parameters}) == len(step.parameters)
    for p in step.parameters:
        assert p.describe()["label"]
