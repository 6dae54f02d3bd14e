"""Dense motion against the neutral picture, and a whole small solve against the truth."""

from dataclasses import replace
from fractions import Fraction

import cv2
import numpy as np
import pytest

from dynaface.assets import ASSETS
from dynaface.core.curves.channels import Channels
from dynaface.core.errors import InputError
from dynaface.core.shapes.regions import REGION
from dynaface.core.shapes.standard import SHAPES
from dynaface.core.solve.card import CardMaker
from dynaface.core.solve.clip import SURE, FrameSolver, finish
from dynaface.core.solve.motion import MotionFinder
from dynaface.core.solve.reference import PIXEL, TALL, TOP, WIDE, EvenLight, layout
from dynaface.core.track.landmarks import LandmarkFinder
from dynaface.formats.card_file import read_card
from dynaface.formats.entries import video
from dynaface.formats.head_file import general_head, landmark_model, landmark_places
from dynaface.pipelines.solve_footage import Samples, find_landmarks, make_card, solve_footage
from dynaface.sims.footage.clip import Setting, render
from dynaface.sims.footage.performer import make_performer
from dynaface.sims.footage.script import NAMES
from tests.makers import film

HEAD = general_head()


@pytest.fixture(scope="module")
def reference():
    """The general head with a made-up neutral picture of grain."""
    grain = cv2.GaussianBlur(np.random.default_rng(1).normal(0, 1, (TALL, WIDE)).astype(np.float32), (0, 0), 2.5)
    made = layout(HEAD, HEAD.points)
    return made.__class__(made.corners, made.weights, made.where, made.points, 120 + 40 * grain / grain.std())


def flat_pixels(shift=(0.0, 0.0)):
    """A camera that sees the head exactly as the reference does."""
    x, y = HEAD.points[:, 0] / PIXEL + WIDE / 2, (TOP - HEAD.points[:, 1]) / PIXEL
    return np.stack([x, y], axis=1) + shift


@pytest.mark.parametrize("shift", [(0.0, 0.0), (2.0, 0.0), (-1.5, 2.5), (0.4, -0.6)])
def test_a_shift_of_the_skin_is_measured(reference, shift):
    picture = cv2.warpAffine(
        reference.picture, np.float32([[1, 0, shift[0]], [0, 1, shift[1]]]), (WIDE, TALL), borderMode=cv2.BORDER_REFLECT
    )
    seen = MotionFinder(reference).find(picture.clip(0, 255).astype(np.uint8), flat_pixels())
    expected = reference.on(np.column_stack([flat_pixels(), np.zeros(len(HEAD.points))]))[:, :2] + shift
    error = np.linalg.norm(seen.pixels - expected, axis=1)
    assert np.median(error) < 0.25
    assert np.median(seen.likeness) > 0.9


def test_what_is_not_the_face_looks_unlike_it(reference):
    other = np.random.default_rng(7).integers(0, 255, (TALL, WIDE), np.uint8)
    seen = MotionFinder(reference).find(cv2.GaussianBlur(other, (0, 0), 2.5), flat_pixels())
    assert seen.likeness.mean() < 0.6  # where a half of the face counts as hidden


def test_light_that_changes_slowly_over_the_face_is_taken_out(reference):
    mask = np.ones((TALL, WIDE), np.float32)
    even = EvenLight(mask)
    slope = np.linspace(-30, 30, WIDE, dtype=np.float32)[None]
    plain, lit = even(reference.picture), even(reference.picture * 0.7 + slope)
    inner = (slice(40, -40), slice(40, -40))
    assert np.abs(plain[inner] - lit[inner]).mean() < 0.15 * np.abs(plain[inner] - 128).mean()


@pytest.fixture(scope="module")
def solved():
    """A short clip with two expressions, solved with a card that has samples of both; (solve, truth)."""
    performer, setting = make_performer(HEAD, 77, 0.08), Setting(size=(320, 320), fov=38.0, away=0.37, noise=0.004)
    values = np.zeros((44, len(NAMES)), np.float32)
    bump = np.sin(np.linspace(0, np.pi, 13)) ** 1.5
    for name, first in (("jawOpen", 12), ("browInnerUp", 28)):
        values[first : first + 13, NAMES.index(name)] = bump
    truth = Channels(NAMES, values, Fraction(30))
    clip = video.read(video.encode(render(performer, truth, setting, 1), Fraction(30)))
    card = make_card(clip, Samples((0, 9), {"jawOpen": 18, "browInnerUp": 34}), fov=38.0)
    return solve_footage(clip, card), truth


def test_two_expressions_are_found_where_they_are(solved):
    made, truth = solved
    for name in ("jawOpen", "browInnerUp"):
        assert np.corrcoef(made.channels.column(name), truth.column(name))[0, 1] > 0.9
        assert np.abs(made.channels.column(name) - truth.column(name)).mean() < 0.08


def test_a_still_head_stays_still_and_every_frame_is_sure(solved):
    made, _ = solved
    for angle in ("headTurn", "headNod", "headTilt"):
        assert np.abs(made.channels.column(angle)).max() < 3.0
    assert np.isfinite(made.poses).all()
    lips = [i for i, s in enumerate(SHAPES) if s.startswith("mouth")]
    assert made.confidence[:, lips].mean() > 0.6


def test_weights_stay_within_their_limits(solved):
    values = solved[0].channels.values[:, :52]
    assert ((values >= 0) & (values <= 1)).all()
    assert not values[:, SHAPES.index("tongueOut")].any()


def test_landmarks_are_found_and_an_empty_picture_has_none():
    with LandmarkFinder(landmark_model()) as finder:
        found = [finder.find(p) for p, _ in zip(video.read(film()).pictures(), range(3), strict=False)]
        assert all(f is not None and f.points.shape == (478, 2) and f.scores.shape == (52,) for f in found)
    with LandmarkFinder(landmark_model(), still=True) as finder:
        assert finder.find(np.full((120, 160, 3), 128, np.uint8)) is None


@pytest.fixture(scope="module")
def demo():
    """(card, clip, landmarks) of the demo's first frames."""
    card = read_card((ASSETS / "demo/mara_card.json").read_bytes(), HEAD)
    clip = video.read((ASSETS / "demo/mara_clip.mp4").read_bytes())
    return card, clip, find_landmarks(clip, 0, 9)


def test_a_face_that_only_the_landmarks_lose_is_followed(demo):
    card, clip, found = demo
    whole = solve_footage(clip, card, 0, 9, found=found)
    made = solve_footage(clip, card, 0, 9, found=[*found[:4], None, None, *found[6:]])
    assert np.isfinite(made.poses).all()
    assert np.abs(made.channels.values[4:6, 52:55] - whole.channels.values[4:6, 52:55]).max() < 0.5
    assert np.abs(made.channels.values[4:6, :52] - whole.channels.values[4:6, :52]).mean() < 0.02


def test_landmarks_that_are_made_up_behind_a_hand_do_not_turn_the_head(demo):
    card, clip, found = demo
    whole = solve_footage(clip, card, 0, 9, found=found)
    low, high = found[5].points[:, 1].min(), found[5].points[:, 1].max()

    def handed(first):
        for number, picture in enumerate(clip.open(first), first):
            if 4 <= number < 7:
                picture = picture.copy()
                picture[int(low + 0.55 * (high - low)) :] = [150, 105, 80]
            yield picture

    made_up = [
        replace(m, points=m.points + np.float32(14) * (m.points > np.median(m.points, axis=0))) if 4 <= n < 7 else m
        for n, m in enumerate(found)
    ]
    made = solve_footage(replace(clip, open=handed), card, 0, 9, found=made_up)
    assert np.abs(made.channels.values[4:7, 52:55] - whole.channels.values[4:7, 52:55]).max() < 2.0
    lips = [i for i, s in enumerate(SHAPES) if REGION[s] == "lips"]
    assert made.confidence[4:7][:, lips].max() < SURE <= made.confidence[[0, 9]][:, lips].mean()


def test_frames_without_a_face_are_bridged_and_marked(demo):
    card, clip, found = demo

    def gone(first):
        return (p * (not 4 <= n < 6) for n, p in enumerate(clip.open(first), first))

    found = [*found[:4], None, None, *found[6:]]
    made = solve_footage(replace(clip, open=gone), card, 0, 9, found=found)
    assert (made.confidence[4:6] == 0).all()
    assert np.isnan(made.poses[4:6]).all()
    assert np.isfinite(made.channels.values).all()
    # The bridge goes from one side of the gap to the other.
    jaw = made.channels.column("jawOpen")
    assert min(jaw[3], jaw[6]) - 0.1 <= jaw[4] <= max(jaw[3], jaw[6]) + 0.1


def test_a_clip_without_any_face_is_told():
    card = read_card((ASSETS / "demo/mara_card.json").read_bytes(), HEAD)
    solver = FrameSolver(HEAD, landmark_places(), card, Fraction(30))
    for _ in range(3):
        solver.add(np.zeros((480, 480), np.uint8), None)
    with pytest.raises(InputError, match="no face is seen"):
        finish(card, solver.measured(), Fraction(30))
    with pytest.raises(InputError, match="neutral frames"):
        CardMaker(HEAD, landmark_places(), (320, 320), 40.0, [], [])
