"""The performer card: what is known of a performer on a day, and how it is measured from a range of motion."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

import cv2
import numpy as np
from numpy.typing import NDArray

from dynaface.core.errors import InputError
from dynaface.core.shapes.standard import SHAPES
from dynaface.core.solve.equations import Equations
from dynaface.core.solve.features import LOOKS, FeatureModel, landmark_features, marks_of
from dynaface.core.solve.frame import FaceModel, Solved, face_model, solve_frame
from dynaface.core.solve.jaw import JAW, jaw_arc
from dynaface.core.solve.motion import MotionFinder
from dynaface.core.solve.reference import layout
from dynaface.core.solve.skin_noise import SkinNoise, noise_of_turn, unknown_noise
from dynaface.core.track.camera import Camera, Pose, camera_of
from dynaface.core.track.head import Array, Head, eyeballs
from dynaface.core.track.iris import IrisFinder
from dynaface.core.track.landmarks import Landmarks
from dynaface.core.track.lid import LidFinder
from dynaface.core.track.likeness import Places, fit_likeness, fit_pose

LOOSE, STIFF, FIXED = 1.0, 3000.0, 1e9
SHARE = 0.8  # of what a sample still shows aside that is taken up, each round
ROUNDS = 2
NEAR = 0.005  # metres over which a correction spreads


@dataclass(frozen=True)
class View:
    """One picture (height, width) grey with its landmarks."""

    picture: NDArray[np.uint8]
    landmarks: Landmarks

    def scaled(self, size: tuple[int, int]) -> "View":
        """The same at another size (width, height)."""
        height, width = self.picture.shape
        if (width, height) == size:
            return self
        points = self.landmarks.points * np.array([size[0] / width, size[1] / height], np.float32)
        picture = cv2.resize(self.picture, size, interpolation=cv2.INTER_AREA if size[0] < width else cv2.INTER_CUBIC)
        return View(picture.astype(np.uint8), replace(self.landmarks, points=points))


@dataclass(frozen=True)
class LidSample:
    """shut: the shut eye on its ball; down: how far looking down shuts it, 0..1."""

    shut: NDArray[np.float32]
    down: float = 0.0


@dataclass(frozen=True)
class PerformerCard:
    """size: (width, height) and fov in degrees of the camera; points: (vertices, 3) neutral; shapes: (52, vertices, 3);
    picture: the neutral reference; noise: of the measured points; turn: (4,) the head's turn when neutral;
    features: how landmarks and scores answer; balls: both neutral eyes on their balls; lids: both eyes shut; looks: (4, 52) degrees by weight;
    solved: (52,) True for shapes that may be solved; sampled: (52,) True for those that a sample was given for; eyeball: radius in
    metres of the balls.
    """

    size: tuple[int, int]
    fov: float
    points: Array
    shapes: Array
    picture: NDArray[np.float32]
    noise: SkinNoise
    turn: Array
    features: FeatureModel
    balls: tuple[NDArray[np.float32], NDArray[np.float32]]
    lids: tuple[LidSample | None, LidSample | None]
    looks: Array
    solved: NDArray[np.bool_]
    sampled: NDArray[np.bool_]
    eyeball: float

    @property
    def camera(self) -> Camera:
        """The camera that it was made with."""
        return camera_of(*self.size, self.fov)


def eye_centres(head: Head, points: Array) -> tuple[Array, Array]:
    """Centres (3,) of the left and right eyeball in points (vertices, 3), metres."""
    left, right = eyeballs(head)
    return points[left].mean(axis=0), points[right].mean(axis=0)


def eyeball_radius(head: Head, points: Array) -> float:
    """Of both eyeballs in points (vertices, 3); all in metres."""
    balls = zip(eyeballs(head), eye_centres(head, points), strict=True)
    return float(np.concatenate([np.linalg.norm(points[own] - middle, axis=1) for own, middle in balls]).mean())


def learn_irises(finders: Sequence[IrisFinder], balls: Sequence[NDArray[np.float32]], rest: Array) -> None:
    """The finders of both eyes take the irises from neutral pictures on their balls, where the landmarks of features (SIZE,) say."""
    for eye, (finder, ball) in enumerate(zip(finders, balls, strict=True)):
        finder.learn(ball, finder.slit(marks_of(rest), eye))


class CardMaker:
    """Measures a card from views of the neutral face, of a head turn, and of samples."""

    def __init__(self, head: Head, places: Places, size: tuple[int, int], fov: float, neutral: Sequence[View],
                 turned: Sequence[View]) -> None:  # fmt: skip
        if not neutral:
            raise InputError("no face is seen in the neutral frames", hint="Choose others in which the face is seen")
        self.head, self.places, self.camera, self.size, self.fov = head, places, camera_of(*size, fov), size, fov
        self.trust = places.trust
        middle = np.mean([v.landmarks.points[:468] for v in neutral], axis=0)
        seen = [middle.astype(np.float64), *(v.landmarks.points[:468].astype(np.float64) for v in turned[::4])]
        likeness = fit_likeness(head, places, self.camera, seen)
        self.points, self.shapes = likeness.points, head.shapes.copy()
        self.neutral_pose = likeness.poses[0]
        self.marks = places.on(self.points)
        left, right = eye_centres(head, self.points)
        self.eyeball = eyeball_radius(head, self.points)
        front = np.array([0, 0, self.eyeball])
        self.all_marks = np.vstack(
            [self.marks, np.repeat([right + front], 5, axis=0), np.repeat([left + front], 5, axis=0)]
        )
        self.high = np.array([s != "tongueOut" for s in SHAPES], float)
        reference = layout(head, self.points)
        bare = MotionFinder(reference)
        poses = [self.pose(v, self.neutral_pose) for v in neutral]
        flat = [bare.carried(v.picture, reference.maps(self.camera.project(p.see(self.points))))
                for v, p in zip(neutral, poses, strict=True)]  # fmt: skip
        self.reference = replace(reference, picture=np.mean(flat, axis=0).astype(np.float32))
        self.motion = MotionFinder(self.reference)
        self.noise = unknown_noise(len(self.reference.points))
        self.irises = (IrisFinder(left, self.eyeball), IrisFinder(right, self.eyeball))
        self.balls = tuple(
            np.mean([f.carried(v.picture, self.camera, p) for v, p in zip(neutral, poses, strict=True)], axis=0)
            for f in self.irises
        )
        self._learn_noise(neutral, turned)
        learn_irises(self.irises, self.balls, self.rest)

    def pose(self, view: View, start: Pose | None) -> Pose:
        """The pose that the landmarks of a view say."""
        return fit_pose(self.camera, self.marks, view.landmarks.points[:468].astype(np.float64), start, self.trust, 8)

    def model(self) -> FaceModel:
        """The face as it is known so far."""
        arc = jaw_arc(self.points, self.shapes, self.places)
        return face_model(self.points, self.shapes, arc, self.reference)

    def _features(self, view: View, pose: Pose) -> Array:
        points, scores = view.landmarks.points.astype(np.float64), view.landmarks.scores.astype(np.float64)
        return landmark_features(self.camera, points, scores, pose, self.all_marks)

    def _still(self, views: Sequence[View]) -> list[Solved]:
        """Neutral views with the face held still: only the pose is free."""
        model = self.model()
        hold = Equations(np.eye(len(SHAPES)) * FIXED, np.zeros(len(SHAPES)))
        pose, out = self.neutral_pose, []
        for view in views:
            pose = self.pose(view, pose)
            out.append(solve_frame(model, self.motion, self.camera, view.picture, pose, np.zeros(len(SHAPES)), hold,
                                   self.high, self.noise))  # fmt: skip
        return out

    def _learn_noise(self, neutral: Sequence[View], turned: Sequence[View]) -> None:
        still = self._still(neutral)
        self.rest = np.mean([self._features(v, s.pose) for v, s in zip(neutral, still, strict=True)], axis=0)
        self.turn = np.mean([s.pose.turn for s in still], axis=0)
        self.turn /= np.linalg.norm(self.turn)
        views, solved = list(neutral), still
        self.turned: list[Solved] = []
        if turned:
            views = list(turned)
            solved = self.turned = self._still(turned)
            at = self.model().at
            left, aside = zip(*(self._left_over(s, at) for s in solved), strict=True)
            scale = [self.camera.focal / -s.pose.see(at)[:, 2].mean() for s in solved]
            self.noise = noise_of_turn(np.array(left), np.array(aside), np.array(scale))
        self.feature_noise = np.array(
            [self._features(v, s.pose) - self.rest for v, s in zip(views, solved, strict=True)]
        )

    def _left_over(self, solved: Solved, at: Array) -> tuple[Array, Array]:
        """How far the measured points are seen from where they are held (n, 3): (n, 2) pixels, and (n, 3) metres in head space."""
        looked = solved.pose.see(at)
        left = solved.seen.pixels - self.camera.project(looked)
        gap = left * (-looked[:, 2:]) / self.camera.focal
        return left, np.stack([gap[:, 0], -gap[:, 1], np.zeros(len(gap))], axis=1) @ solved.pose.matrix()

    def _held(self, group: Sequence[int], loose: float) -> tuple[Equations, Array]:
        """Equations that hold a group of shapes at one and the others near zero, and the weights."""
        stiff = np.full(len(SHAPES), loose)
        if SHAPES.index("mouthClose") in group:
            stiff[JAW] = LOOSE  # lips close over an open jaw
        stiff[list(group)] = FIXED
        weights = np.zeros(len(SHAPES))
        weights[list(group)] = 1.0
        return Equations(np.diag(stiff), stiff * weights), weights

    def _sample(self, model: FaceModel, view: View, group: Sequence[int], loose: float) -> Solved:
        known, weights = self._held(group, loose)
        high = np.maximum(self.high, weights)
        return solve_frame(model, self.motion, self.camera, view.picture, self.pose(view, self.neutral_pose), weights, known,
                           high, self.noise)  # fmt: skip

    def finish(self, samples: Mapping[str, View], groups: Sequence[Sequence[str]]) -> PerformerCard:
        """The card. samples: shape -> view of it at its extreme; groups: shapes that share a view."""
        numbered = [[SHAPES.index(s) for s in g] for g in groups]
        for _ in range(ROUNDS):
            model = self.model()
            for group, shapes in zip(groups, numbered, strict=True):
                if not all(s in LOOKS or s == "tongueOut" for s in group):
                    self._correct(model, self._sample(model, samples[group[0]], shapes, STIFF), shapes)
        model = self.model()
        basis, looks = self._fallback()
        poses: dict[str, Pose] = {}
        for group, shapes in sorted(zip(groups, numbered, strict=True), key=lambda g: "mouthClose" in g[0]):
            view = samples[group[0]]
            solved = self._sample(model, view, shapes, 300.0)
            poses |= dict.fromkeys(group, solved.pose)
            change = self._features(view, solved.pose) - self.rest
            if "mouthClose" in group:
                change = change - basis[:, JAW] * solved.weights[JAW]
            for shape in shapes:
                basis[:, shape] = change * (1.0 if len(shapes) == 1 else self._side(SHAPES[shape]))
            self._learn_looks(looks, group, view, solved.pose)
        sampled = np.isin(np.arange(len(SHAPES)), [k for g in numbered for k in g])
        features = FeatureModel(self.rest, basis, self.feature_noise, self.all_marks)
        return PerformerCard(self.size, self.fov, self.points, self.shapes, self.reference.picture, self.noise, self.turn,
                             features, self.balls, self._lids(samples, poses), looks, self.high > 0, sampled, self.eyeball)  # fmt: skip

    def _lids(
        self, samples: Mapping[str, View], poses: Mapping[str, Pose]
    ) -> tuple[LidSample | None, LidSample | None]:
        """Both shut eyes, of those that a blink was sampled of."""

        def one(eye: int, side: str) -> LidSample | None:
            blink, down = f"eyeBlink{side}", f"eyeLookDown{side}"
            if blink not in poses:
                return None
            shut = self.irises[eye].carried(samples[blink].picture, self.camera, poses[blink])
            finder = LidFinder(self.balls[eye], shut)
            if not finder.usable:
                return None
            if down not in poses:
                return LidSample(shut)
            lid = finder.find(self.irises[eye].carried(samples[down].picture, self.camera, poses[down]))
            return LidSample(shut, lid.shut if lid.alike > 0.6 else 0.0)

        return one(0, "Left"), one(1, "Right")

    def _side(self, shape: str) -> Array:
        """(SIZE,) how far a feature belongs to the shape's side."""
        sign = 1.0 if shape.endswith("Left") else -1.0
        marks = np.clip(sign * self.all_marks[:, 0] / 0.006 * 0.5 + 0.5, 0, 1)
        ends = [1.0 if s.endswith("Left") else -1.0 if s.endswith("Right") else 0.0 for s in SHAPES]
        return np.concatenate([np.repeat(marks, 2), np.clip(sign * np.array(ends) * 0.5 + 0.5, 0, 1)])

    def _correct(self, model: FaceModel, solved: Solved, shapes: Sequence[int]) -> None:
        """Takes up, as part of the shapes, what a sample still shows aside of the model."""
        left, aside = self._left_over(solved, model.measured(solved.weights))
        belief = np.clip((solved.seen.likeness - 0.3) / 0.5, 0, 1) / (1 + (left**2).sum(axis=1) / 64.0) ** 2
        vertices = np.unique(self.reference.corners)
        own = self.points[vertices]
        kernel = np.exp(-((own[:, None] - model.at[None]) ** 2).sum(axis=-1) / (2 * NEAR**2)) * belief
        add = SHARE * (kernel @ aside) / (kernel.sum(axis=1, keepdims=True) + 0.5)
        for shape in shapes:
            sign = 1.0 if SHAPES[shape].endswith("Left") else -1.0
            share = 1.0 if len(shapes) == 1 else np.clip(sign * own[:, :1] / 0.012 * 0.5 + 0.5, 0, 1)
            self.shapes[shape][vertices] += add * share

    def _fallback(self) -> tuple[Array, Array]:
        """What the general head would do to landmarks, scores and looks, for shapes without a sample."""
        moved = np.stack([self.places.on(s) for s in self.shapes], axis=-1)[:, :2] * 1000
        irises = np.zeros((10, 2, len(SHAPES)))
        basis = np.concatenate([np.concatenate([moved, irises]).reshape(-1, len(SHAPES)), np.eye(len(SHAPES)) * 7.0])
        looks = np.zeros((4, len(SHAPES)))
        for number, name in enumerate(SHAPES):
            if name in LOOKS:
                eye = 0 if name.endswith("Left") else 1
                outward = 1 if eye == 0 else -1
                if "Out" in name or "In" in name:
                    looks[2 * eye, number] = 24.0 * outward * (1 if "Out" in name else -1)
                else:
                    looks[2 * eye + 1, number] = 14.0 if "Up" in name else -19.0
        return basis, looks

    def _learn_looks(self, looks: Array, group: Sequence[str], view: View, pose: Pose) -> None:
        for name in group:
            if name not in LOOKS:
                continue
            eye = 0 if name.endswith("Left") else 1
            look = self.irises[eye].find(self.irises[eye].carried(view.picture, self.camera, pose))
            row = 2 * eye + (0 if "Out" in name or "In" in name else 1)
            angle = look.turn if row % 2 == 0 else look.nod
            expected = looks[row, SHAPES.index(name)]
            # A sample that says the opposite, or hardly anything, was no look.
            if look.alike > 0.5 and 0.3 < angle / expected < 2.5:
                looks[row, SHAPES.index(name)] = angle
