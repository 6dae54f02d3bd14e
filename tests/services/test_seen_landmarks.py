"""Landmarks of footage are kept in pieces and read by window: a long clip's are never in memory as a whole."""

import numpy as np
import pytest

from dynaface.core.errors import InputError
from dynaface.core.track.landmarks import Landmarks
from dynaface.core.track.neutral import stillest
from dynaface.services.footage import seen_landmarks as seen
from dynaface.services.footage.seen_landmarks import (
    SeenLandmarks,
    fetch_points,
    is_looked_through,
    keep_landmarks,
    packed,
)
from dynaface.store.repositories import sources as repository

FRAMES = 50


def mark(number):
    """A face that is still from frame 20 on and not seen in frame 7."""
    if number == 7:
        return None
    points = np.zeros((478, 2), np.float32)
    points[152, 1] = 100
    return Landmarks(
        points + max(0, 20 - number) + number / 1000, np.full(52, number / 100, np.float32) * (number < 20)
    )


@pytest.fixture
def source(mara, production, monkeypatch):
    """Footage whose landmarks came in pieces of other sizes than those in which they are kept and read."""
    monkeypatch.setattr(repository, "CHUNK", 16)
    monkeypatch.setattr(seen, "WINDOW", 12)
    with mara.store.unit() as unit:
        made = unit.sources.add(production, "footage", "clip.mp4", "0" * 64, 1, {"frames": FRAMES})
    marks = [mark(n) for n in range(FRAMES)]
    keep_landmarks(mara, made.id, iter([packed(marks[:5]), packed(marks[5:45]), packed(marks[45:])]))
    return made


def test_each_frame_is_as_it_was_kept(mara, source):
    found = SeenLandmarks(mara, source)
    assert len(found) == FRAMES
    for number in (0, 11, 12, 15, 16, 31, 32, 49, 3):
        np.testing.assert_array_equal(found[number].points, mark(number).points)
        np.testing.assert_array_equal(found[number].scores, mark(number).scores)
    assert found[7] is None
    assert [m is None for m in found[5:9]] == [False, False, True, False]
    np.testing.assert_array_equal(found[-1].points, mark(49).points)
    with pytest.raises(IndexError):
        found[FRAMES]


def test_no_more_than_some_windows_are_held(mara, source):
    found = SeenLandmarks(mara, source)
    assert sum(m is not None for m in found) == FRAMES - 1
    assert found._window.cache_info().currsize == seen.KEPT


def test_what_is_judged_over_the_whole_clip_needs_no_more(mara, source):
    assert stillest(SeenLandmarks(mara, source), 10.0) == stillest([mark(n) for n in range(FRAMES)], 10.0)
    assert stillest(SeenLandmarks(mara, source), 10.0)[0] >= 20


def test_the_page_is_given_the_frames_that_it_asks_for(mara, source, monkeypatch):
    points = fetch_points(mara, source.id, 10, 20)
    np.testing.assert_array_equal(points, np.stack([mark(n).points for n in range(10, 21)]))
    assert np.isnan(fetch_points(mara, source.id, 7, 7)).all()
    assert len(fetch_points(mara, source.id, 45, 900)) == 5
    assert len(fetch_points(mara, source.id, 900, 901)) == 0
    monkeypatch.setattr(seen, "MOST_POINTS", 3)
    assert len(fetch_points(mara, source.id, 0, FRAMES)) == 3
    with pytest.raises(InputError, match="must not come after"):
        fetch_points(mara, source.id, 5, 4)


def test_footage_that_was_not_looked_through_has_none(mara, production, source):
    with mara.store.unit() as unit:
        other = unit.sources.add(production, "footage", "other.mp4", "0" * 64, 1, {"frames": FRAMES})
    assert not is_looked_through(mara, other)
    assert is_looked_through(mara, source)
    assert list(SeenLandmarks(mara, other)) == [None] * FRAMES
    with pytest.raises(InputError, match="not been looked through"):
        fetch_points(mara, other.id, 0, 5)


def test_landmarks_that_are_found_again_take_the_place_of_the_old_ones(mara, source):
    keep_landmarks(mara, source.id, iter([packed([None] * FRAMES)]))
    assert not any(SeenLandmarks(mara, source))
