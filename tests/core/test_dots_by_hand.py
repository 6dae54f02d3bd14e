"""Followed dots put right by hand: put somewhere and carried both ways, given to another, dropped, split."""

from dataclasses import replace
from fractions import Fraction

import numpy as np
import pytest

from dynaface.core.dots.dot import DotLayout
from dynaface.core.dots.hand import Correction, corrected, parse_correction
from dynaface.core.dots.track import DotTrack
from dynaface.core.errors import InputError
from dynaface.core.track.footage import Footage
from tests.core.test_dots import SIZE, layout_of, moving, shown

CENTRES = moving()
FRAMES = len(CENTRES)


def clip() -> Footage:
    return Footage(*SIZE, np.arange(FRAMES) / 30, Fraction(30), "none", False, None,
                   lambda first: (shown(c) for c in CENTRES[first:]))  # fmt: skip


def layout() -> DotLayout:
    return layout_of(CENTRES[0])


def followed(points: np.ndarray) -> DotTrack:
    return DotTrack(("a", "b", "c"), points.copy(), np.where(np.isnan(points[..., 0]), 0.0, 1.0))


def put(dot: str, frame: int, at) -> Correction:
    return parse_correction({"kind": "put", "layout": "l", "dot": dot, "frame": frame, "at": [float(v) for v in at]})


def over(kind: str, dot: str, first: int, last: int, **more) -> Correction:
    return parse_correction({"kind": kind, "layout": "l", "dot": dot, "first": first, "last": last, **more})


def split(dot: str, frame: int) -> Correction:
    return parse_correction({"kind": "split", "layout": "l", "dot": dot, "frame": frame})


def test_a_lost_dot_that_is_put_somewhere_is_carried_both_ways():
    points = CENTRES.copy()
    points[8:, 2] = np.nan
    made = corrected(followed(points), layout(), [put("c", 25, CENTRES[25, 2] + [2, -2])], clip())
    assert np.linalg.norm(made.points[:, 2] - CENTRES[:, 2], axis=1).max() < 0.5
    assert made.confidence[25, 2] == 1.0
    np.testing.assert_array_equal(made.points[:, :2], points[:, :2])


def test_where_it_meets_its_own_track_that_is_left_as_it_was():
    points = CENTRES + 0.25
    points[18:22, 2] = np.nan
    made = corrected(followed(points), layout(), [put("c", 20, CENTRES[20, 2])], clip())
    np.testing.assert_array_equal(
        np.r_[made.points[:14, 2], made.points[26:, 2]], np.r_[points[:14, 2], points[26:, 2]]
    )
    assert np.linalg.norm(made.points[18:22, 2] - CENTRES[18:22, 2], axis=1).max() < 0.5


def test_a_track_on_another_dot_is_taken_from_it():
    points = CENTRES.copy()
    points[10:30, [0, 1]] = points[10:30, [1, 0]]
    made = corrected(followed(points), layout(), [put("a", 20, CENTRES[20, 0])], clip())
    assert np.linalg.norm(made.points[:, 0] - CENTRES[:, 0], axis=1).max() < 0.5
    # Its rival followed the very dot: nothing is known of that one there.
    assert np.isnan(made.points[14:26, 1]).all()


def test_a_stretch_is_given_to_another_dot_or_exchanged_with_it():
    points = CENTRES.copy()
    points[10:30, [0, 1]] = points[10:30, [1, 0]]
    made = corrected(followed(points), layout(), [over("give", "a", 10, 29, to="b")], clip())
    np.testing.assert_array_equal(made.points, CENTRES)
    points[30:, 1] = np.nan
    points[10:30, 1] = np.nan
    points[10:30, 0] = np.nan
    joined = corrected(followed(points), layout(), [over("give", "c", 0, 5, to="b")], clip())
    np.testing.assert_array_equal(joined.points[:6, 1], CENTRES[:6, 2])


def test_a_dropped_stretch_is_not_seen():
    made = corrected(followed(CENTRES), layout(), [over("drop", "b", 5, 9)], clip())
    assert np.isnan(made.points[5:10, 1]).all()
    assert (made.confidence[5:10, 1] == 0).all()
    assert np.isfinite(made.points[[4, 10], 1]).all()


def test_it_is_not_carried_over_a_split_or_another_place_where_it_was_put():
    points = CENTRES.copy()
    points[:, 2] = np.nan
    made = corrected(followed(points), layout(), [put("c", 20, CENTRES[20, 2]), split("c", 12), split("c", 27)], clip())
    assert np.flatnonzero(np.isfinite(made.points[:, 2, 0])).tolist() == list(range(12, 27))
    both = [put("c", 10, CENTRES[10, 2]), put("c", 30, CENTRES[30, 2])]
    made = corrected(followed(points), layout(), both, clip())
    assert np.linalg.norm(made.points[:, 2] - CENTRES[:, 2], axis=1).max() < 0.5


def test_a_place_without_a_dot_is_kept_at_its_frame_alone():
    made = corrected(followed(CENTRES), layout(), [put("c", 20, (30.0, 30.0))], clip())
    assert made.points[20, 2] == pytest.approx((30, 30))
    others = np.arange(FRAMES) != 20
    np.testing.assert_array_equal(made.points[others], CENTRES[others])


def test_it_is_carried_through_a_short_time_in_which_it_is_hidden():
    film = clip()
    hidden = range(22, 28)
    bare = [shown([*c[:2], (-50, -50)] if n in hidden else c) for n, c in enumerate(CENTRES)]
    points = CENTRES.copy()
    points[15:, 2] = CENTRES[15:, 0]
    made = corrected(
        followed(points), layout(), [put("c", 18, CENTRES[18, 2])], replace(film, open=lambda f: iter(bare[f:]))
    )
    assert np.isnan(made.points[22:28, 2]).all()
    assert np.linalg.norm(made.points[30:, 2] - CENTRES[30:, 2], axis=1).max() < 0.5


def test_corrections_of_what_is_gone_are_passed_over():
    told = [over("drop", "z", 0, 3), over("give", "a", 0, 3, to="z"), over("drop", "a", 30, 400)]
    np.testing.assert_array_equal(corrected(followed(CENTRES), layout(), told, clip()).points, CENTRES)


@pytest.mark.parametrize(
    "wrong",
    [
        {"kind": "hide"},
        {"dot": ""},
        {"frame": -1},
        {"at": [1]},
        {"at": [1, "x"]},
        {"more": 1},
    ],
)
def test_wrong_corrections_are_refused(wrong):
    good = {"kind": "put", "layout": "l", "dot": "a", "frame": 3, "at": [1, 2]}
    parse_correction(good)
    with pytest.raises(InputError):
        parse_correction({**good, **wrong})
    with pytest.raises(InputError, match="must not come after"):
        over("drop", "a", 9, 3)
    with pytest.raises(InputError):
        parse_correction("put")
