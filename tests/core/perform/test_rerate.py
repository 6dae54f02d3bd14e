"""A performance at another frame rate shows the same at the same moments."""

from dataclasses import replace
from fractions import Fraction

import numpy as np
import pytest
from numpy.testing import assert_allclose

from dynaface.core.body.rotations import about
from dynaface.core.cast.apply import CastMotion
from dynaface.core.curves.channels import Channels
from dynaface.core.perform.perform import Performance
from dynaface.core.perform.rerate import performance_at

FRAMES = 121


def performance() -> Performance:
    """Two seconds at 60 in which everything goes evenly."""
    times = np.arange(FRAMES) / 60
    channels = Channels(("jawOpen",), (0.4 * times[:, None]).astype(np.float32), Fraction(60))
    turns = about("y", 20 * times)
    steps = np.where(times[:, None] < 1, 0.0, 1.0).astype(np.float32)
    cast = CastMotion(("open", "step"), np.hstack([channels.values, steps]), (), {"eye": turns}, {"jaw": turns}, {"lid": np.outer(times, [1, 0, 0])})  # fmt: skip
    local = np.stack([turns, about("x", -30 * times)], axis=1).astype(np.float32)
    root = np.outer(times, [0.5, 0, 1.0]).astype(np.float32)
    return Performance(channels, cast, ("hips", "neck"), local, root, "hips", ("neck",), {"lid": root})


@pytest.mark.parametrize("rate", [Fraction(24), Fraction(30), Fraction(120), Fraction(24000, 1001)])
def test_every_moment_is_as_it_was(rate):
    made = performance_at(performance(), rate)
    times = np.arange(made.channels.frames) / float(rate)
    assert made.channels.rate == rate
    assert abs(times[-1] - 2) < 1 / float(rate) + 1e-9
    assert_allclose(made.cast.weights[:, 0], 0.4 * times, atol=1e-5)
    assert_allclose(made.root, np.outer(times, [0.5, 0, 1.0]), atol=1e-5)
    assert_allclose(made.shifts["lid"], made.root, atol=1e-5)
    assert_allclose(made.cast.shifts["lid"][:, 0], times, atol=1e-5)
    for joint, expected in enumerate((about("y", 20 * times), about("x", -30 * times))):
        assert_allclose(np.abs(np.sum(made.local[:, joint] * expected, axis=1)), 1, atol=1e-6)
    for table in (made.cast.eyes, made.cast.turns):
        assert all(len(v) == made.channels.frames for v in table.values())


def test_weights_do_not_leave_what_they_were_between():
    made = performance_at(performance(), Fraction(50))
    assert set(np.unique(made.cast.weights[:, 1])) == {0.0, 1.0}


def test_at_its_own_rate_nothing_changes():
    made = performance()
    again = performance_at(made, Fraction(60))
    assert np.array_equal(again.local, made.local)
    assert np.array_equal(again.cast.weights, made.cast.weights)


def test_nothing_is_nothing_at_any_rate():
    made = performance()
    none = replace(made, channels=replace(made.channels, values=made.channels.values[:0]), local=made.local[:0], root=made.root[:0])  # fmt: skip
    assert performance_at(none, Fraction(24)).channels.frames == 0
