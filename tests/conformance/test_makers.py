"""EVERY maker through the same demands."""

import numpy as np
import pytest

from dynaface.core.curves.channels import Channels
from dynaface.core.layers.around import Aim, Around
from dynaface.core.layers.layer import Layer, apply_layer
from dynaface.core.layers.maker import known_makers, placed_maker
from dynaface.core.layers.weight import Weight
from dynaface.core.parameters import complete
from dynaface.core.shapes.standard import CHANNELS
from dynaface.core.speech.words import Phone, Word
from tests.makers import channels

MAKERS = known_makers()
AROUND = Around(
    aims={"lamp": Aim(np.array([0.4, 1.5, 1.0])), "nose": Aim(np.array([0.0, 1.5, 0.4]), on_head=True)},
    words=(
        Word(
            "lamp", 0.4, 0.9, (Phone("L", 0.4, 0.5), Phone("AE", 0.5, 0.7), Phone("M", 0.7, 0.8), Phone("P", 0.8, 0.9))
        ),
    ),
)
LOOKS = {"a": [10, "lamp"], "b": [70, "nose"], "c": [120, "held"], "d": [150, "captured"], "e": [170, "gone"]}


@pytest.fixture(params=sorted(MAKERS))
def maker(request):
    return MAKERS[request.param]


def made(maker, below, **given):
    if "looks" in [p.name for p in maker.parameters]:
        given = {"looks": LOOKS, **given}
    return maker.make(below, complete(maker.parameters, given), AROUND)


def test_it_is_described_for_a_form(maker):
    described = maker.describe()
    assert described["label"]
    assert all(p["label"] for p in described["parameters"])


def test_it_gives_curves_of_the_same_length_and_leaves_what_is_beneath(maker):
    below = channels(200, names=CHANNELS[:60])
    kept = below.values.copy()
    for channel, curve in made(maker, below).items():
        assert channel in CHANNELS
        assert curve.shape == (200,)
        assert np.isfinite(curve).all()
    np.testing.assert_array_equal(below.values, kept)


def test_it_gives_the_same_again(maker):
    below = channels(300)
    one, other = made(maker, below), made(maker, below)
    assert {k: v.tobytes() for k, v in one.items()} == {k: v.tobytes() for k, v in other.items()}


@pytest.mark.parametrize("frames", [0, 1, 2])
def test_it_takes_the_shortest_input(maker, frames):
    below = channels(max(frames, 1))
    short = Channels(below.names, below.values[:frames], below.rate)
    assert all(len(v) == frames for v in made(maker, short).values())


def test_gaps_beneath_are_no_gaps_of_what_it_makes(maker):
    below = channels(200)
    values = below.values.copy()
    values[50:80] = np.nan
    assert all(np.isfinite(v).all() for v in made(maker, below.with_values(values)).values())


def test_a_layer_of_weight_0_leaves_nothing_of_it(maker):
    below = channels(200)
    layer = Layer("add", weight=Weight(0.0), makers=(placed_maker(maker.name, {}),))
    np.testing.assert_array_equal(apply_layer(below, layer).values, below.values)
