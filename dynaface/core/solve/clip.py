"""A whole clip: frame by frame as pictures come, then all frames together in time."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from fractions import Fraction
from functools import partial

import numpy as np
from numpy.typing import NDArray

from dynaface.core import checks
from dynaface.core.clock.timecode import Timecode
from dynaface.core.curves.channels import Channels
from dynaface.core.errors import InputError
from dynaface.core.numeric.sequence import solve_sequence
from dynaface.core.shapes.regions import REGION
from dynaface.core.shapes.standard import HEAD_ANGLES, HEAD_TRAVEL, SHAPES
from dynaface.core.solve.card import PerformerCard, eye_centres, learn_irises
from dynaface.core.solve.confidence import confidence
from dynaface.core.solve.equations import Equations
from dynaface.core.solve.features import (
    DOWN_SHUTS,
    LOWER,
    believe,
    landmark_features,
    lid_equations,
    look_equations,
    opening_equations,
)
from dynaface.core.solve.frame import FaceModel, Solved, face_model, solve_frame
from dynaface.core.solve.jaw import JAW, beside_seam, jaw_arc
from dynaface.core.solve.measured import Measured, MeasuredFrames, row_of
from dynaface.core.solve.motion import MotionFinder
from dynaface.core.solve.priors import LIDS_SEEN, fewer, prior, smoothness, sparseness
from dynaface.core.solve.reference import layout
from dynaface.core.solve.tacked import tacked
from dynaface.core.solve.tacks import Tack, tacks_within
from dynaface.core.track.camera import Pose, angles_of
from dynaface.core.track.head import Array, Head
from dynaface.core.track.iris import IrisFinder
from dynaface.core.track.landmarks import Landmarks
from dynaface.core.track.lid import LidFinder
from dynaface.core.track.likeness import Places, fit_pose
from dynaface.core.track.travel import travel_of

DOWN = tuple(SHAPES.index(f"eyeLookDown{side}") for side in ("Left", "Right"))
EDGE, FEWEST = (
    8,
    12,
)  # pixels from the picture's edge that a point must be, and points by which a half of the face is judged
ENOUGH = 0.8  # likeness of a point that is surely seen
ROUND = 0.018, 0.040  # metres from an eyeball's middle within which the skin round the eye is
COVERED, BARE = 0.45, 0.75  # likeness of that skin where something is before it, and where nothing is
BETTER = 0.01  # of likeness, by which another way to see a frame must be the better one
SURE = 0.5  # confidence below this is marked
TOGETHER, BESIDE = 3600, 120  # frames that are solved at once, and those on either side that are solved along
# What moves: the head before a still camera, the camera round a still head, or both as one (a head mount).
HEAD, CAMERA, NEITHER = MOVES = ("head", "camera", "neither")


@dataclass(frozen=True)
class Solve:
    """channels: shapes and, where the head moves, its angles and travel; confidence: (frames, channels) 0..1 of each; poses:
    (frames, 7) turn and place (metres) of the head in camera space, NaN where no face was seen; fits: 0..1 how far the face that was seen
    is that of the card.
    """

    channels: Channels
    confidence: NDArray[np.float32]
    poses: Array
    fits: float


class FrameSolver:
    """Measures pictures one after the other; `finish` then solves them as a sequence."""

    def __init__(self, head: Head, places: Places, card: PerformerCard, rate: Fraction) -> None:
        self.card, self.rate = card, rate
        self.camera = card.camera
        reference = layout(head, card.points)
        arc = jaw_arc(card.points, card.shapes, places)
        self.model: FaceModel = face_model(card.points, card.shapes, arc, reference).with_picture(card.picture)
        self.motion = MotionFinder(self.model.reference)
        self.marks, self.trust = places.on(card.points), places.trust
        self.believed = believe(card.features)
        centres = eye_centres(head, card.points)
        self.irises = tuple(IrisFinder(c, card.eyeball) for c in centres)
        learn_irises(self.irises, card.balls, card.features.rest)
        away = [np.linalg.norm(self.model.at - c, axis=1) for c in centres]
        self.round_eyes = [(d > ROUND[0]) & (d < ROUND[1]) for d in away]
        self.lids = [
            (eye, LidFinder(card.balls[eye], held.shut), held.down) for eye, held in enumerate(card.lids) if held
        ]
        self.unknown_lids = [eye for eye, held in enumerate(card.lids) if not held]
        self.prior = prior(LIDS_SEEN) if len(self.lids) == 2 else prior()
        self.high = card.solved.astype(np.float64)
        size = np.linalg.norm(self.model.by, axis=1)
        # Whose points speak of a channel: those that it moves most.
        self.shares = size / np.maximum(size.sum(axis=0), 1e-9)
        low = self.model.at[:, 1] < LOWER
        self.halves = ~low, low & ~beside_seam(self.model.at, self.model.by[..., JAW])
        self.pose: Pose | None = None
        self.weights = np.zeros(len(SHAPES))
        self._rows: list[tuple[Array, ...]] = []

    def add(self, picture: NDArray[np.uint8], landmarks: Landmarks | None) -> None:
        """The next picture (height, width) grey. Where landmarks are lost or made up, the face is followed from the frame before by what
        is still seen of it; else the frame is lost.
        """
        by_landmarks = self._by_landmarks(picture, landmarks) if landmarks else None
        by_before = (
            self._by_frame_before(picture)
            if self.pose and (by_landmarks is None or by_landmarks.half[1] < SURE)
            else None
        )
        known: Callable[[Pose, tuple[float, float]], Equations]
        if landmarks and by_landmarks and (by_before is None or by_before.upper <= by_landmarks.upper + BETTER):
            found, known = by_landmarks, partial(self._equations_of_landmarks, landmarks)
        elif by_before and (by_landmarks or by_before.half[0] >= SURE):
            found, known = by_before, self._equations_of_prior
        else:
            self._lose()
            return
        self.weights = found.solved.weights
        looks = self._looks(picture, found.solved)
        found = self._look(picture, found.solved.pose, known(found.solved.pose, found.half) + looks)
        self.pose, self.weights = found.solved.pose, found.solved.weights
        whole = found.solved.equations + (known(self.pose, found.half) + looks)
        sure = self._seen(found.solved.seen.likeness, found.half)
        self._keep(whole.a, whole.b - sparseness(whole.a), self.pose, sure)

    def _by_landmarks(self, picture: NDArray[np.uint8], landmarks: Landmarks) -> "_Found":
        """A first look from where the landmarks are."""
        points = landmarks.points[:468].astype(np.float64)
        pose = fit_pose(self.camera, self.marks, points, self.pose, self.trust, 4)
        return self._look(picture, pose, self._equations_of_landmarks(landmarks, pose, (1.0, 1.0)))

    def _by_frame_before(self, picture: NDArray[np.uint8]) -> "_Found":
        """A first look from where the face was just before: behind a hand landmarks are made up or lost, while what is still seen of
        the face can be followed.
        """
        assert self.pose
        return self._look(picture, self.pose, self.prior)

    def _look(self, picture: NDArray[np.uint8], pose: Pose, known: Equations) -> "_Found":
        solved = solve_frame(self.model, self.motion, self.camera, picture, pose, self.weights, known, self.high,
                             self.card.noise, 1, sparseness)  # fmt: skip
        alike, inside = solved.seen.likeness, _inside(solved.seen.pixels, picture)
        upper, lower = (inside & own for own in self.halves)
        noise = self.card.noise.alone
        half = how_seen(alike[upper], noise[upper]), how_seen(alike[lower], noise[lower])
        return _Found(solved, half, float(alike[upper].mean()) if upper.any() else 0.0)

    def _equations_of_landmarks(self, landmarks: Landmarks, pose: Pose, half: tuple[float, float]) -> Equations:
        """What is known of a frame beside the skin's motion and the eyes."""
        points, scores = landmarks.points.astype(np.float64), landmarks.scores.astype(np.float64)
        features = landmark_features(self.camera, points, scores, pose, self.card.features.places)
        eyes = [(eye, DOWN_SHUTS * self.weights[DOWN[eye]], half[0]) for eye in self.unknown_lids]
        shut = opening_equations(self.card.features.rest, features, eyes)
        return self.prior + self.believed.equations(features, *half) + shut

    def _equations_of_prior(self, _pose: Pose, _half: tuple[float, float]) -> Equations:
        """The same where the landmarks are not believed."""
        return self.prior

    def _looks(self, picture: NDArray[np.uint8], solved: Solved) -> Equations:
        balls = [f.carried(picture, self.camera, solved.pose) for f in self.irises]
        looks = [f.find(ball) for f, ball in zip(self.irises, balls, strict=True)]
        shut = [
            (eye, finder.find(balls[eye], looks[eye], self._bare(eye, solved)), down * self.weights[DOWN[eye]])
            for eye, finder, down in self.lids
        ]
        return look_equations(self.card.looks, (looks[0], looks[1]), shut) + lid_equations(shut)

    def _bare(self, eye: int, solved: Solved) -> float:
        """How surely nothing is before the skin round an eye."""
        return float(np.clip((solved.seen.likeness[self.round_eyes[eye]].mean() - COVERED) / (BARE - COVERED), 0, 1))

    def _seen(self, alike: Array, half: tuple[float, float]) -> Array:
        by_channel = np.clip((alike @ self.shares - 0.45) / 0.4, 0, 1)
        for number, shape in enumerate(SHAPES):
            if REGION[shape] in ("lids", "gaze"):
                by_channel[number] = half[0]
            elif REGION[shape] in ("jaw", "lips", "cheeks"):
                by_channel[number] = min(by_channel[number], half[1])
        by_channel[~self.card.solved] = 0.0
        return by_channel

    def _lose(self) -> None:
        # What is not seen is bridged by smoothness alone, and marked.
        self._keep((np.eye(len(SHAPES)) * 1e-3), np.zeros(len(SHAPES)), None, np.zeros(len(SHAPES)))

    def _keep(self, a: Array, b: Array, pose: Pose | None, sure: Array) -> None:
        self._rows.append((a.astype(np.float32), b, self.weights, row_of(pose), sure))

    def measured(self, skip: int = 0) -> Measured:
        """All frames so far but the first `skip`, which only by_landmarks up to them."""
        rows = self._rows[skip:]
        if not rows:
            raise InputError("the clip ends before the frames that are asked for")
        return Measured(*(np.array(column) for column in zip(*rows, strict=True)))


def finish(card: PerformerCard, measured: MeasuredFrames, rate: Fraction, timecode: Timecode | None = None,
           tacks: Sequence[Tack] = (), moves: str = HEAD) -> Solve:  # fmt: skip
    """All frames solved together in time, with what was set by hand; tacks count frames from the first measured; moves:
    one of MOVES. A long clip is solved in pieces of TOGETHER frames, with as many frames on either side as are felt, so
    that its equations are never in memory as a whole. Raises InputError when there is no face in any frame.
    """
    checks.one_of("moves", moves, MOVES)
    beside = max([BESIDE, *(tack.span for tack in tacks)])
    pieces: list[tuple[NDArray[np.float32], NDArray[np.float32], Array, Array]] = []
    for first in range(0, measured.frames, TOGETHER):
        begins, stop = max(0, first - beside), min(first + TOGETHER, measured.frames)
        piece = measured.cut(begins, min(stop + beside, measured.frames) - 1)
        weights = _together(card, piece, rate, tacks, begins)
        own = slice(first - begins, stop - begins)
        sure = confidence(weights[own], piece.weights[own], piece.sure[own], card.solved, card.sampled)
        like = piece.sure[own][:, card.solved].mean(axis=1)
        pieces.append((weights[own].astype(np.float32), sure, piece.poses[own], like))
    values, sure, poses, like = (np.concatenate(column) for column in zip(*pieces, strict=True))
    seen = np.isfinite(poses[:, 0])
    if not seen.any():
        raise InputError("no face is seen in any frame", hint="Check that the face is in the picture, upright and lit")
    names = SHAPES
    if moves == HEAD:
        head = angles_of(poses, card.turn)
        travel = travel_of(poses[:, :4], poses[:, 4:], card.turn)
        shown = np.repeat(seen[:, None].astype(np.float32), len(HEAD_ANGLES + HEAD_TRAVEL), axis=1)
        names, sure = SHAPES + HEAD_ANGLES + HEAD_TRAVEL, np.hstack([sure, shown])
        values = np.hstack([values, head.astype(np.float32), travel.astype(np.float32)])
    return Solve(Channels(names, values, rate, 0.0, timecode), sure, poses, float(like[seen].mean()))


def _together(card: PerformerCard, measured: Measured, rate: Fraction, tacks: Sequence[Tack], first: int) -> Array:
    """(frames, shapes) weights of frames that are solved at once, the first of which the tacks count as `first`."""
    stiff = smoothness() * (float(rate) / 30.0) ** 3
    high = card.solved.astype(np.float64)
    weights = solve_sequence(measured.a, measured.b, measured.weights, stiff, high=high)
    held = np.where(measured.seen[:, None], fewer(measured.a, weights, float(rate)), 0.0)
    measured = replace(measured, b=measured.b - held)
    weights = solve_sequence(measured.a, measured.b, weights, stiff, high=high)
    if own := tacks_within(tacks, first, first + measured.frames - 1):
        a, b = tacked(card, measured, weights, own, first)
        weights = solve_sequence(a, b, weights, stiff, high=high, sweeps=300)
    return weights


def _inside(pixels: Array, picture: NDArray[np.uint8]) -> NDArray[np.bool_]:
    """(n,) whether what is about points (n, 2) is in the picture."""
    height, width = picture.shape
    return np.asarray(((pixels > EDGE) & (pixels < np.array([width, height]) - EDGE)).all(axis=1))


def how_seen(alike: Array, noise: Array) -> float:
    """0..1 how far a half of the face is seen: skin that moves stays like itself, a hand before it does not. alike: (n,) likeness
    of its points, noise: (n,) pixels; what is noisy on a still face says little, and more than enough likeness no more than enough.
    """
    if len(alike) < FEWEST:
        return 0.0
    return float(np.clip((np.average(np.minimum(alike, ENOUGH), weights=noise**-2.0) - 0.535) / 0.2, 0, 1))


@dataclass(frozen=True)
class _Found:
    """A look at a frame. half: how far the upper and the lower half of the face are seen; upper: how alike the upper one is."""

    solved: Solved
    half: tuple[float, float]
    upper: float
