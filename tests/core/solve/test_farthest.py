"""The extreme of an expression that is shown alone."""

import numpy as np
import pytest

from dynaface.core.shapes.standard import SHAPES
from dynaface.core.track.landmarks import POINTS, Landmarks
from dynaface.core.track.neutral import farthest

RNG = np.random.default_rng(4)
REST = RNG.uniform(100, 300, (POINTS, 2))


def shown(opening, turn=0.0, shift=(0.0, 0.0), score=0.0):
    points = REST.copy()
    points[:40, 1] += opening
    spin = np.array([[np.cos(turn), -np.sin(turn)], [np.sin(turn), np.cos(turn)]])
    scores = np.zeros(52, np.float32)
    scores[SHAPES.index("jawOpen")] = score
    return Landmarks(((points - 200) @ spin.T + 200 + shift).astype(np.float32), scores)


def test_the_frame_in_which_the_face_went_farthest():
    rise = 12 * np.sin(np.linspace(0, np.pi, 31))
    assert farthest([shown(r) for r in rise], "jawOpen") == 15


def test_a_head_that_turns_and_moves_is_no_expression():
    found = [shown(8 * (n == 12), turn=0.02 * n, shift=(n, -n)) for n in range(30)]
    assert farthest(found, "jawOpen") == 12


def test_the_learned_score_tells_between_expressions_of_one_size():
    found = [shown(6 * (n in (9, 20)), score=0.8 * (n == 20)) for n in range(30)]
    assert farthest(found, "jawOpen") == 20


@pytest.mark.parametrize("found", [[], [None, None]])
def test_without_a_face_there_is_none(found):
    assert farthest(found, "jawOpen") == -1


def test_frames_without_a_face_are_passed_over():
    assert farthest([None, *(shown(r) for r in (0, 0, 3, 9, 1)), None], "jawOpen") == 4
