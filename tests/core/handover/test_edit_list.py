"""What lies where."""

from fractions import Fraction as Fr

import pytest

from dynaface.core.clock.timecode import parse_timecode
from dynaface.core.handover.edit_list import EditList, Mark, Media, Piece, cut_to, laid_apart

MEDIA = Media("clip.mp4", Fr(20))


def piece(start, stop, first=0, speed=1, name="p"):
    return Piece(name, Fr(start), Fr(stop), Fr(first), MEDIA, Fr(speed))


def test_pieces_that_overlap_lie_on_tracks_of_their_own():
    tracks = laid_apart("Odile", "picture", [piece(2, 5), piece(0, 3), piece(3, 4), piece(5, 6)])
    assert [t.name for t in tracks] == ["Odile", "Odile 2"]
    assert [[(p.start, p.stop) for p in t.pieces] for t in tracks] == [[(0, 3), (3, 4), (5, 6)], [(2, 5)]]


def test_a_stretch_shows_the_same_of_each_recording():
    whole = EditList("x", Fr(24), Fr(10), tuple(laid_apart("a", "sound", [piece(1, 5, 2, 2), piece(6, 7)])),
                     (Mark("hey", Fr(2)), Mark("late", Fr(8))), parse_timecode("01:00:00:00", Fr(24)))  # fmt: skip
    part = cut_to(whole, Fr(2), Fr(2))
    (track,) = part.tracks
    (only,) = track.pieces
    assert (only.start, only.stop, only.first) == (0, 2, 4)
    assert [(m.name, m.at) for m in part.marks] == [("hey", 0)]
    assert str(part.timecode) == "01:00:02:00"
    assert part.seconds == 2


@pytest.mark.parametrize(("first", "left"), [(0, 2), (7, 0)])
def test_what_lies_outside_is_gone(first, left):
    whole = EditList("x", Fr(24), Fr(10), tuple(laid_apart("a", "sound", [piece(1, 3), piece(3, 6)])))
    assert sum(len(t.pieces) for t in cut_to(whole, Fr(first), Fr(4)).tracks) == left
