"""What is known of faces before any picture."""

import numpy as np

from dynaface.core.shapes.standard import SHAPES
from dynaface.core.solve.priors import fewer, prior, smoothness, sparseness


def test_the_prior_is_positive_and_knows_left_from_right():
    a = prior().a
    assert np.linalg.eigvalsh(a).min() > 0
    one, other = SHAPES.index("mouthSmileLeft"), SHAPES.index("mouthSmileRight")
    assert a[one, other] < 0
    assert a[SHAPES.index("jawLeft"), SHAPES.index("jawRight")] == 0
    assert a[SHAPES.index("eyeLookOutLeft"), SHAPES.index("eyeLookInRight")] < 0


def test_gaze_and_blinks_are_not_held_back():
    held = sparseness(np.eye(len(SHAPES)) * 1000)
    assert held[SHAPES.index("eyeBlinkLeft")] == 0
    assert held[SHAPES.index("eyeLookUpLeft")] == 0
    assert held[SHAPES.index("jawOpen")] > 0
    assert smoothness()[SHAPES.index("eyeBlinkLeft")] < smoothness()[SHAPES.index("jawOpen")]


def test_what_hardly_shows_about_a_moment_is_held_back_more_and_what_shows_less():
    a = np.tile(np.eye(len(SHAPES)) * 1e4, (60, 1, 1))
    weights = np.zeros((60, len(SHAPES)))
    jaw, smile = SHAPES.index("jawOpen"), SHAPES.index("mouthSmileLeft")
    weights[30, jaw] = 0.8
    more = fewer(a, weights, 30.0)
    assert (more[:, smile] > 0).all()
    assert more[30, jaw] < 0
    assert more[26, jaw] == more[30, jaw]  # half a second about it
    assert more[5, jaw] == more[5, smile] > 0
    assert not more[:, SHAPES.index("eyeBlinkLeft")].any()
    assert (more >= -sparseness(a)).all()  # never a reward
