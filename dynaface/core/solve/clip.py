"""A whole clip: frame by frame as pictures come, then all frames together in time."""

from collections.abc import Callable, Iterable
from dataclasses import dataclass
from fractions import Fraction

import numpy as np
from numpy.typing import NDArray

from dynaface.core.body.rotations import head_angles, inverse, multiply
from dynaface.core.clock.timecode import Timecode
from dynaface.core.curves.channels import Channels
from dynaface.core.errors import InputError
from dynaface.core.shapes.regions import REGION
from dynaface.core.shapes.standard import HEAD_ANGLES, SHAPES
from dynaface.core.solve.bounded import solve_sequence
from dynaface.core.solve.card import PerformerCard, eye_centres
from dynaface.core.solve.equations import Equations
from dynaface.core.solve.features import LOWER, believe, landmark_features, look_equations
from dynaface.core.solve.frame import FaceModel, face_model, solve_frame
from dynaface.core.solve.motion import MotionFinder
from dynaface.core.solve.priors import prior, smoothness, sparseness
from dynaface.core.solve.reference import layout
from dynaface.core.track.camera import Pose
from dynaface.core.track.head import Array, Head
from dynaface.core.track.iris import IrisFinder
from dynaface.core.track.landmarks import Landmarks
from dynaface.core.track.likeness import Places, fit_pose

SURE = 0.5  # confidence below this is marked
Frame = tuple[NDArray[np.uint8], Landmarks | None]


@dataclass(frozen=True)
class Solve:
    """channels: shapes and head angles; confidence: (frames, channels) 0..1 of each; places: (frames, 3) metres of the
    head in camera space, NaN where no face was seen.
    """

    channels: Channels
    confidence: NDArray[np.float32]
    places: Array


class FrameSolver:
    """Solves pictures one after the other; `finish` solves what was gathered as a sequence."""

    def __init__(self, head: Head, places: Places, card: PerformerCard, rate: Fraction) -> None:
        self.card, self.rate = card, rate
        self.camera = card.camera
        reference = layout(head, card.points)
        self.model: FaceModel = face_model(card.points, card.shapes, reference).with_picture(card.picture)
        self.motion = MotionFinder(self.model.reference)
        self.marks, self.trust = places.on(card.points), places.trust
        self.believed = believe(card.features)
        self.irises = tuple(IrisFinder(c) for c in eye_centres(head, card.points))
        for finder, ball in zip(self.irises, card.balls, strict=True):
            finder.learn(ball)
        self.prior = prior()
        self.high = card.solved.astype(np.float64)
        size = np.linalg.norm(self.model.by, axis=1)
        # Whose points speak of a channel: those that it moves most.
        self.shares = size / np.maximum(size.sum(axis=0), 1e-9)
        self.low_points = self.model.at[:, 1] < LOWER
        self.pose: Pose | None = None
        self.weights = np.zeros(len(SHAPES))
        self.a: list[Array] = []
        self.b: list[Array] = []
        self.first: list[Array] = []
        self.poses: list[Pose | None] = []
        self.sure: list[Array] = []

    def add(self, picture: NDArray[np.uint8], landmarks: Landmarks | None) -> None:
        """The next picture (height, width) grey; without landmarks the frame is lost."""
        if landmarks is None:
            self._lose()
            return
        points, scores = landmarks.points.astype(np.float64), landmarks.scores.astype(np.float64)
        pose = fit_pose(self.camera, self.marks, points[:468], self.pose, self.trust, 4)
        half = (1.0, 1.0)
        looks = Equations(np.zeros_like(self.prior.a), np.zeros_like(self.prior.b))
        for look in range(2):
            if look:
                looks = self._looks(picture, pose)
            told = self._told(points, scores, pose, half, looks)
            solved = solve_frame(self.model, self.motion, self.camera, picture, pose, self.weights, told, self.high,
                                 self.card.noise, 1, sparseness)  # fmt: skip
            pose, self.weights = solved.pose, solved.weights
            alike = solved.seen.likeness
            half = (_seen(alike[~self.low_points]), _seen(alike[self.low_points]))
        told = self._told(points, scores, pose, half, looks)
        self.pose = pose
        whole = solved.equations + told
        self.a.append(whole.a.astype(np.float32))
        self.b.append(whole.b - sparseness(whole.a))
        self.first.append(self.weights)
        self.poses.append(pose)
        self.sure.append(self._confidence(alike, half))

    def _told(self, points: Array, scores: Array, pose: Pose, half: tuple[float, float], looks: Equations) -> Equations:
        features = landmark_features(self.camera, points, scores, pose, self.card.features.places)
        return self.prior + self.believed.equations(features, *half) + looks

    def _looks(self, picture: NDArray[np.uint8], pose: Pose) -> Equations:
        left, right = (f.find(f.carried(picture, self.camera, pose)) for f in self.irises)
        return look_equations(self.card.looks, (left, right))

    def _confidence(self, alike: Array, half: tuple[float, float]) -> Array:
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
        self.a.append((np.eye(len(SHAPES)) * 1e-3).astype(np.float32))
        self.b.append(np.zeros(len(SHAPES)))
        self.first.append(self.weights)
        self.poses.append(None)
        self.sure.append(np.zeros(len(SHAPES)))

    @property
    def frames(self) -> int:
        """Frames so far."""
        return len(self.first)

    def finish(self, timecode: Timecode | None = None) -> Solve:
        """The solve of all frames so far; raises InputError when there is no face in any."""
        known = [i for i, p in enumerate(self.poses) if p is not None]
        if not known:
            raise InputError(
                "no face is seen in any frame", hint="Check that the face is in the picture, upright and lit"
            )
        stiff = smoothness() * (float(self.rate) / 30.0) ** 3
        weights = solve_sequence(np.array(self.a), np.array(self.b), np.array(self.first), stiff, high=1.0)
        weights *= self.high
        turns = np.array([self.poses[i].turn for i in known])  # type: ignore[union-attr]
        angles = np.stack(head_angles(multiply(turns, inverse(self.card.turn))), axis=1)
        frames = np.arange(self.frames)
        head = np.stack([np.interp(frames, known, a) for a in angles.T], axis=1)
        places = np.full((self.frames, 3), np.nan)
        places[known] = [self.poses[i].place for i in known]  # type: ignore[union-attr]
        values = np.column_stack([weights, head]).astype(np.float32)
        sure = np.array(self.sure)
        seen = np.isfinite(places[:, :1]).astype(np.float64)
        confidence = np.column_stack([sure, np.repeat(seen, len(HEAD_ANGLES), axis=1)]).astype(np.float32)
        return Solve(Channels(SHAPES + HEAD_ANGLES, values, self.rate, 0.0, timecode), confidence, places)


def _seen(alike: Array) -> float:
    """0..1 how far a half of the face is seen: skin that moves stays like itself, a hand before it does not."""
    return float(np.clip((alike.mean() - 0.6) / 0.2, 0, 1))


def solve_clip(solver: FrameSolver, frames: Iterable[Frame], timecode: Timecode | None = None,
               told: Callable[[int], None] = lambda frame: None) -> Solve:  # fmt: skip
    """Solves all frames; `told` is called with each frame's number and may raise to stop."""
    for number, (picture, landmarks) in enumerate(frames):
        solver.add(picture, landmarks)
        told(number)
    return solver.finish(timecode)
