"""Pictures of single frames of a clip."""

from fractions import Fraction

import numpy as np

from dynaface.core.track.footage import Footage
from dynaface.core.track.landmarks import Landmarks
from dynaface.pipelines.solve_footage import NEAR, views_of

FRAMES = 1000


def clip(opened: list[int]) -> Footage:
    """Each picture as bright as its number says; opened: where it was begun to be read."""

    def pictures(first: int):
        opened.append(first)
        return (np.full((4, 6, 3), n % 256, np.uint8) for n in range(first, FRAMES))

    return Footage(6, 4, np.arange(FRAMES) / 30, Fraction(30), "h264", False, None, pictures)


def test_frames_that_are_far_apart_are_jumped_to():
    opened: list[int] = []
    face = Landmarks(np.zeros((478, 2), np.float32), np.zeros(52, np.float32))
    found: list[Landmarks | None] = [face] * FRAMES
    found[5] = None
    views = views_of(clip(opened), found, {3, 5, 8, 8 + NEAR, 700, 702})
    assert sorted(views) == [3, 8, 8 + NEAR, 700, 702]
    assert [int(views[n].picture[0, 0]) for n in sorted(views)] == [3, 8, 8 + NEAR, 700 % 256, 702 % 256]
    assert opened == [3, 700]


def test_no_frames_are_no_views():
    opened: list[int] = []
    assert views_of(clip(opened), [None] * FRAMES, set()) == {}
    assert opened == []
