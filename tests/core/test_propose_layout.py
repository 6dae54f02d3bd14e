"""Markers find their places on heads of others, put on carelessly, beside markers that are on no face; what is no face is said to be none."""

from dataclasses import replace

import numpy as np
import pytest

from dynaface.core.errors import InputError
from dynaface.core.markers.chart import MARKS
from dynaface.core.markers.layout import Layout
from dynaface.core.markers.propose_layout import layout_doubts, propose_layout
from dynaface.core.markers.take import MarkerTake
from dynaface.pipelines.solve_markers import general_chart
from dynaface.sims.careless_stage import FRAMES, careless_take
from dynaface.sims.optical_stage import RATE, usual_places

NEUTRAL = (0, FRAMES - 1)


def doubts(take, layout):
    return layout_doubts(take, layout, general_chart())


def cloud(points):
    return MarkerTake(tuple(f"m{n}" for n in range(len(points))), np.tile(points, (FRAMES, 1, 1)), RATE, None)


@pytest.mark.parametrize(("seed", "useless"), [(811, 0), (812, 4), (813, 8)])
def test_careless_markers_are_placed_whatever_lies_beside_the_face(seed, useless):
    take = careless_take(seed, useless)
    layout = propose_layout(take, general_chart(), NEUTRAL)
    right = sum(label == place for label, place in layout.places.items())
    assert right >= 0.9 * len(usual_places())
    assert not [label for label in layout.places if label.startswith("useless")]
    assert doubts(take, layout) == []


def test_few_markers_are_said_to_fit_in_several_ways():
    take = careless_take(814, 0, tuple(list(MARKS)[:40:5]))
    assert "several ways" in doubts(take, propose_layout(take, general_chart(), NEUTRAL))[0]


def test_what_is_no_face_is_refused_or_said():
    rng = np.random.default_rng(3)
    away = rng.normal(size=(60, 3))
    ball = cloud(0.1 * away / np.linalg.norm(away, axis=1)[:, None] * rng.uniform(0, 1, (60, 1)) ** (1 / 3))
    assert "no face" in " ".join(doubts(ball, propose_layout(ball, general_chart(), NEUTRAL)))
    body = cloud(rng.uniform(-1, 1, (30, 3)) * [0.4, 0.9, 0.2])
    with pytest.raises(InputError, match="do not lie as on a face"):
        propose_layout(body, general_chart(), NEUTRAL)


def test_a_file_in_the_wrong_unit_is_said():
    take = careless_take(815, 0)
    small = replace(take, points=take.points / 10)
    assert "unit of the file" in " ".join(doubts(small, Layout({n: n for n in usual_places()}, NEUTRAL)))


def test_a_left_handed_file_is_said():
    take = careless_take(815, 0)
    layout = Layout({n: n for n in usual_places()}, NEUTRAL)
    for axis in np.eye(3):
        mirrored = replace(take, points=take.points * (1 - 2 * axis))
        assert "left and right are exchanged" in " ".join(doubts(mirrored, layout))


def test_markers_that_are_not_seen_in_the_neutral_face_have_no_place():
    take = careless_take(816, 0)
    points = take.points.copy()
    points[:, take.labels.index("chin")] = np.nan
    layout = propose_layout(replace(take, points=points), general_chart(), NEUTRAL)
    assert "chin" not in layout.places
