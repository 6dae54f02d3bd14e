"""Tacks: what is set by hand at a frame is there in the solve, fades, and leaves the rest alone."""

from fractions import Fraction

import numpy as np
import pytest

from dynaface.assets import ASSETS
from dynaface.core.errors import InputError
from dynaface.core.shapes.standard import SHAPES
from dynaface.core.solve.clip import CAMERA, NEITHER, finish
from dynaface.core.solve.features import landmark_features
from dynaface.core.solve.measured import Measured, joined, row_of
from dynaface.core.solve.tacks import Tack, parse_tack, tacks_within
from dynaface.core.track.camera import Pose
from dynaface.formats.card_file import read_card
from dynaface.formats.head_file import general_head
from dynaface.formats.measured_file import read_measured, write_measured

RATE = Fraction(30)
AT = Pose(np.array([0.0, 0.0, 0.0, 1.0]), np.array([0.0, 0.0, -0.4]))
JAW = SHAPES.index("jawOpen")


@pytest.fixture(scope="module")
def card():
    return read_card((ASSETS / "demo/mara_card.json").read_bytes(), general_head())


@pytest.fixture(scope="module")
def measured():
    """41 frames that say well what the weights are: a jaw that opens and closes, and a smile that stays."""
    truth = np.zeros((41, len(SHAPES)))
    truth[:, JAW] = 0.4 * np.sin(np.linspace(0, np.pi, 41))
    truth[:, SHAPES.index("mouthSmileLeft")] = 0.3
    a = np.tile(np.eye(len(SHAPES)) * 4e4, (41, 1, 1)).astype(np.float32)
    return Measured(a, truth * 4e4, truth, np.tile(row_of(AT), (41, 1)), np.ones((41, len(SHAPES))))


def weights(card, measured, *tacks):
    return finish(card, measured, RATE, None, tacks).channels.values[:, : len(SHAPES)]


def test_a_pinned_weight_is_met_fades_and_ends(card, measured):
    before, after = weights(card, measured), weights(card, measured, Tack(20, 6, "jawOpen", 0.9))
    assert after[20, JAW] == pytest.approx(0.9, abs=0.02)
    change = after[:, JAW] - before[:, JAW]
    assert (np.diff(change[20:28]) < 0).all()
    assert np.abs(change[np.abs(np.arange(41) - 20) > 12]).max() < 0.01
    others = [i for i in range(len(SHAPES)) if i != JAW]
    assert np.abs(after[:, others] - before[:, others]).max() < 1e-3


def test_a_span_of_nothing_holds_one_frame(card, measured):
    after = weights(card, measured, Tack(20, 0, "jawOpen", 0.9))
    assert after[20, JAW] == pytest.approx(0.9, abs=0.02)
    assert abs(after[23, JAW] - weights(card, measured)[23, JAW]) < 0.15


def test_a_pinned_point_is_where_the_face_then_is(card, measured):
    model, chin = card.features, 152
    wanted = np.zeros(len(SHAPES))
    wanted[JAW] = 0.8
    rows = slice(2 * chin, 2 * chin + 2)
    target = model.rest[rows] + model.basis[rows] @ wanted
    place = _pixels(card, chin, target)
    after = weights(card, measured, Tack(20, 6, point=chin, place=tuple(place)))
    told = model.rest[rows] + model.basis[rows] @ after[20]
    before = model.rest[rows] + model.basis[rows] @ weights(card, measured)[20]
    assert np.linalg.norm(told - target) < 0.25 * np.linalg.norm(before - target)


def _pixels(card, point, target):
    """Where in the picture a landmark must be to be at `target` (2,) mm in head space."""
    place = np.array([0.0, 0.0])
    for _ in range(20):
        points = np.tile(place, (478, 1))
        now = landmark_features(card.camera, points, np.zeros(52), AT, card.features.places)[2 * point : 2 * point + 2]
        place = place + (target - now) * np.array([1, -1]) / 1000 * card.camera.focal / 0.35
    return place


def test_a_point_cannot_be_pinned_where_no_face_is_seen(card, measured):
    lost = Measured(measured.a, measured.b, measured.weights, measured.poses.copy(), measured.sure)
    lost.poses[20] = np.nan
    with pytest.raises(InputError, match="frame 20, but no face"):
        weights(card, lost, Tack(20, 6, point=152, place=(100, 100)))
    assert weights(card, lost, Tack(20, 6, "jawOpen", 0.9))[20, JAW] == pytest.approx(0.9, abs=0.02)


def test_tacks_count_the_clips_frames(card):
    tacks = [Tack(5, 2, "jawOpen", 1.0), Tack(50, 2, "jawOpen", 1.0), Tack(90, 2, "jawOpen", 1.0)]
    assert [p.frame for p in tacks_within(tacks, 40, 80)] == [10]


@pytest.mark.parametrize("data", [
    None, {}, {"frame": 1}, {"frame": 1, "span": 2, "shape": "wobble", "value": 0.5},
    {"frame": 1, "span": 2, "shape": "jawOpen", "value": 1.5}, {"frame": -1, "span": 2, "shape": "jawOpen", "value": 0.5},
    {"frame": 1, "span": 2, "point": 478, "x": 0, "y": 0}, {"frame": 1, "span": 2, "point": 4, "x": "a", "y": 0},
    {"frame": 1, "span": 2, "point": 4, "x": 1, "y": 0, "shape": "jawOpen", "value": 1},
    {"frame": 1, "span": 2, "point": 4, "x": float("nan"), "y": 0},
])  # fmt: skip
def test_tacks_that_make_no_sense_are_refused(data):
    with pytest.raises(InputError):
        parse_tack(data)


def test_tacks_are_read():
    assert parse_tack({"frame": 3, "span": 4, "shape": "jawOpen", "value": 0.5}) == Tack(3, 4, "jawOpen", 0.5)
    assert parse_tack({"frame": 3, "span": 4, "point": 9, "x": 1, "y": 2}) == Tack(3, 4, point=9, place=(1.0, 2.0))


def test_the_head_is_told_only_where_it_moves(card, measured):
    assert "headTurn" in finish(card, measured, RATE).channels.names
    for moves in (CAMERA, NEITHER):
        made = finish(card, measured, RATE, moves=moves)
        assert made.channels.names == SHAPES
        assert made.confidence.shape == made.channels.values.shape
    with pytest.raises(InputError, match="moves"):
        finish(card, measured, RATE, moves="sideways")


def test_stretches_join_as_one(measured):
    parts = joined([measured.cut(0, 12), measured.cut(13, 40)])
    for name in ("a", "b", "weights", "poses", "sure"):
        np.testing.assert_array_equal(getattr(parts, name), getattr(measured, name))
    with pytest.raises(InputError, match="nothing"):
        joined([])


def test_what_was_measured_is_read_again_and_damage_is_told(measured):
    rng = np.random.default_rng(1)
    j = rng.normal(0, 1, (41, 60, 52))
    full = Measured(
        (j.transpose(0, 2, 1) @ j).astype(np.float32), measured.b, measured.weights, measured.poses, measured.sure
    )
    data = write_measured(full)
    again = read_measured(data)
    np.testing.assert_allclose(again.a, full.a, rtol=1e-5, atol=1e-4)
    np.testing.assert_array_equal(again.b, full.b)
    for bad in (b"", data[:500], b"x" * 100):
        with pytest.raises(InputError, match="cannot be read"):
            read_measured(bad)
