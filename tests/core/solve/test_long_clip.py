"""A clip that is solved in pieces is the clip solved at once: across the places where pieces meet, with gaps and tacks there."""

from fractions import Fraction

import numpy as np
import pytest

from dynaface.assets import ASSETS
from dynaface.core.errors import InputError
from dynaface.core.shapes.standard import SHAPES
from dynaface.core.solve import clip
from dynaface.core.solve.clip import finish
from dynaface.core.solve.measured import Measured, row_of
from dynaface.core.solve.tacks import Tack
from dynaface.core.track.camera import Pose
from dynaface.formats.card_file import read_card
from dynaface.formats.head_file import general_head

RATE, FRAMES, PIECE = Fraction(30), 400, 150
JAW = SHAPES.index("jawOpen")


@pytest.fixture(scope="module")
def card():
    return read_card((ASSETS / "demo/mara_card.json").read_bytes(), general_head())


def made(lost=()):
    """Frames that say noisily what the weights are, each with equations in which shapes look alike."""
    rng = np.random.default_rng(4)
    n = len(SHAPES)
    truth = np.clip(
        0.3 + 0.3 * np.sin(np.arange(FRAMES)[:, None] * rng.uniform(0.02, 0.3, n) + rng.uniform(0, 6, n)), 0, 1
    )
    rows = rng.normal(0, 120, (FRAMES, 70, n))
    a = (rows.transpose(0, 2, 1) @ rows).astype(np.float32)
    b = np.einsum("fij,fj->fi", a.astype(np.float64), truth) + rng.normal(0, 2e4, (FRAMES, n))
    poses = np.tile(row_of(Pose(np.array([0.0, 0.0, 0.0, 1.0]), np.array([0.0, 0.0, -0.4]))), (FRAMES, 1))
    gone = list(lost)
    a[gone], b[gone], poses[gone] = np.eye(n) * 1e-3, 0.0, np.nan
    return Measured(a, b, truth, poses, np.ones((FRAMES, n)))


class Counted:
    """Measured frames, with the largest piece that was in memory."""

    def __init__(self, measured):
        self.measured, self.most = measured, 0

    @property
    def frames(self):
        return self.measured.frames

    def cut(self, first, last):
        self.most = max(self.most, last - first + 1)
        return self.measured.cut(first, last)


@pytest.mark.parametrize("lost", [(), range(140, 165)], ids=["seen throughout", "a gap where pieces meet"])
@pytest.mark.parametrize(
    "tacks", [(), (Tack(149, 20, "jawOpen", 0.9), Tack(301, 4, "jawOpen", 0.1))], ids=["plain", "tacked"]
)
def test_pieces_join_as_if_all_had_been_solved_at_once(card, monkeypatch, lost, tacks):
    measured = made(lost)
    whole = finish(card, measured, RATE, None, tacks)
    monkeypatch.setattr(clip, "TOGETHER", PIECE)
    monkeypatch.setattr(clip, "BESIDE", 40)
    counted = Counted(measured)
    pieces = finish(card, counted, RATE, None, tacks)
    assert counted.most <= PIECE + 2 * 40
    assert np.abs(pieces.channels.values - whole.channels.values).max() < 2e-3
    # Confidence follows the weights; what is seen of the face does not.
    np.testing.assert_allclose(pieces.confidence, whole.confidence, rtol=0, atol=5e-4)
    np.testing.assert_array_equal(pieces.confidence == 0, whole.confidence == 0)
    assert pieces.fits == whole.fits
    np.testing.assert_array_equal(pieces.poses, whole.poses)


def test_a_tack_where_no_face_is_seen_is_told_by_its_own_frame(card, monkeypatch):
    monkeypatch.setattr(clip, "TOGETHER", PIECE)
    monkeypatch.setattr(clip, "BESIDE", 10)
    with pytest.raises(InputError, match="frame 333, but no face"):
        finish(card, made(range(320, 340)), RATE, None, [Tack(333, 6, point=152, place=(100, 100))])


def test_a_piece_without_a_face_is_no_error_but_a_clip_without_one_is(card, monkeypatch):
    monkeypatch.setattr(clip, "TOGETHER", PIECE)
    monkeypatch.setattr(clip, "BESIDE", 10)
    assert np.isfinite(finish(card, made(range(150, 300)), RATE).channels.values).all()
    with pytest.raises(InputError, match="no face"):
        finish(card, made(range(FRAMES)), RATE)
