"""The frame of each expression's extreme: near its highest, and as much alone as it is anywhere."""

import numpy as np

from dynaface.core.shapes.standard import SHAPES
from dynaface.core.solve.extremes import extremes


def bump(frames, middle, height, width=6):
    return height * np.exp(-(((np.arange(frames) - middle) / width) ** 2))


def test_each_shown_shape_has_its_frame_and_its_rise():
    weights = np.full((120, 52), 0.05)
    weights[:, SHAPES.index("jawOpen")] += bump(120, 40, 0.8)
    weights[:, SHAPES.index("browInnerUp")] += bump(120, 90, 0.5)
    weights[:, SHAPES.index("cheekPuff")] += bump(120, 70, 0.1)
    found = extremes(weights, (0, 10))
    assert set(found) == {"jawOpen", "browInnerUp"}
    assert found["jawOpen"][0] == 40
    assert abs(found["jawOpen"][1] - 0.8) < 1e-6


def test_a_mixture_is_passed_over_for_the_shape_alone():
    weights = np.zeros((200, 52))
    weights[:, SHAPES.index("jawForward")] = bump(200, 60, 0.8) + bump(200, 140, 0.9)
    weights[:, SHAPES.index("jawOpen")] = bump(200, 140, 0.9)
    assert abs(extremes(weights, (0, 10))["jawForward"][0] - 60) <= 1
