"""Landmarks, learned scores and looks as measurements of the weights, each believed as far as its own noise allows.

A landmark is carried back into head space, so that head motion is out of it; what shapes do to it is taken from the
performer's own samples, since the landmark model sees a face in its own way.
"""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from dynaface.core.shapes.regions import REGION
from dynaface.core.shapes.standard import SHAPES
from dynaface.core.solve.equations import Equations
from dynaface.core.track.camera import Camera, Pose
from dynaface.core.track.head import Array
from dynaface.core.track.iris import Look
from dynaface.core.track.lid import Lid

LANDMARKS, SCORES = 956, 52
SIZE = LANDMARKS + SCORES
_LIDS = (33, 7, 163, 144, 145, 153, 154, 155, 133, 173, 157, 158, 159, 160, 161, 246, 263, 249, 390, 373, 374, 380, 381, 382,
         362, 398, 384, 385, 386, 387, 388, 466)  # fmt: skip
_IRISES = range(468, 478)
# How much of what their noise alone would allow they are believed: their errors go together.
LID_TRUST, LANDMARK_TRUST, SCORE_TRUST = 0.25, 0.04, 0.075
LANDMARK_FLOOR, SCORE_FLOOR = 0.25, 0.2  # millimetres, tenths
MODEL_ERROR = 0.2  # of what a shape does to a feature: people are not linear
KEPT = 10  # common movements of the noise that are taken out
LOOKS = tuple(s for s in SHAPES if s.startswith("eyeLook"))
LID_BELIEF = 4000.0
COVERS, HIDES = 0.25, 0.55  # how far shut a lid begins to cover the iris, and hides where it is
SHUT_SEEN = 0.65  # how well a lid must be seen to say so
LOOK_NOISE = 0.85  # degrees
# Upper and lower lid of the left and of the right eye, and how far apart they are in a shut eye, as a share of the neutral one.
LID_PAIRS = (((386, 374), (385, 380), (387, 373)), ((159, 145), (158, 153), (160, 144)))
SHUT_OPENING = 0.15
OPENING_BELIEF = 2000.0
BEGINS_SHUT, SURELY_SHUT = 0.3, 0.55  # an open eye seems to be shut so far by noise; from the other on it is shut
DOWN_SHUTS = 0.4  # how far looking down shuts an eye of which nothing is known
LOWER = -0.030  # metres above the eyes: what lies below, a hand may hide


def landmark_features(camera: Camera, points: Array, scores: Array, pose: Pose, places: Array) -> Array:
    """(SIZE,) millimetres of the landmarks aside and up in head space, then scores in tenths.

    points: (478, 2) pixels; scores: (52,); places: (478, 3) of the landmarks on the neutral head.
    """
    away = -pose.see(places)[:, 2]
    ray = (points - np.array(camera.centre)) / camera.focal
    inside = pose.unsee(np.stack([ray[:, 0] * away, -ray[:, 1] * away, -away], axis=1))
    return np.concatenate([inside[:, :2].ravel() * 1000, scores * 10])


def marks_of(features: Array) -> Array:
    """(478, 2) millimetres of the landmarks in head space, of features (SIZE,)."""
    return features[:LANDMARKS].reshape(-1, 2)


def lower_features(places: Array) -> Array:
    """(SIZE,) True for features of the mouth and jaw, which a hand may hide."""
    low = np.repeat(places[:, 1] < LOWER, 2)
    return np.concatenate([low, [REGION[s] in ("jaw", "lips", "cheeks", "tongue") for s in SHAPES]])


@dataclass(frozen=True)
class FeatureModel:
    """rest: (SIZE,) of the neutral face; basis: (SIZE, 52) what a full weight adds; noise: (samples, SIZE) of a neutral
    face that turns, about its rest; places: (478, 3) on the neutral head.
    """

    rest: Array
    basis: Array
    noise: Array
    places: Array


@dataclass(frozen=True)
class Believed:
    """A feature model ready for use, upper and lower face apart: precision-weighted basis (SIZE, 52) and its product
    with the basis (52, 52) each.
    """

    rest: Array
    upper: tuple[Array, Array]
    lower: tuple[Array, Array]

    def equations(self, features: Array, upper: float, lower: float) -> Equations:
        """Equations of a frame's features (features,); upper, lower: 0..1 how far that half of the face is seen."""
        gap = features - self.rest
        return Equations(
            upper * self.upper[1] + lower * self.lower[1], upper * (gap @ self.upper[0]) + lower * (gap @ self.lower[0])
        )


def believe(model: FeatureModel) -> Believed:
    """Works out how far each feature is believed: inverse of noise plus model error (Woodbury on its largest parts)."""
    eye = np.isin(np.arange(478), _LIDS)
    gain = np.where(eye, LID_TRUST, LANDMARK_TRUST)
    gain[list(_IRISES)] = 0.0  # the iris is followed on the eyeball itself
    gains = np.concatenate([np.repeat(gain, 2), np.full(SCORES, SCORE_TRUST)])
    floor = np.concatenate([np.full(LANDMARKS, LANDMARK_FLOOR), np.full(SCORES, SCORE_FLOOR)]) ** 2
    own = (model.noise**2).mean(axis=0)
    spread = floor + (MODEL_ERROR * np.abs(model.basis).max(axis=1)) ** 2 + 0.05 * own
    _, sizes, ways = np.linalg.svd(model.noise / np.sqrt(max(len(model.noise), 1)), full_matrices=False)
    common = (ways[:KEPT] * sizes[:KEPT, None]).T
    scaled = (gains / spread)[:, None]
    core = np.eye(common.shape[1]) + common.T @ (scaled * common)
    precise = scaled * model.basis - (scaled * common) @ np.linalg.solve(core, common.T @ (scaled * model.basis))
    low = lower_features(model.places)[:, None]
    up, down = np.where(low, 0.0, precise), np.where(low, precise, 0.0)
    return Believed(model.rest, (up, _symmetric(up.T @ model.basis)), (down, _symmetric(down.T @ model.basis)))


def _symmetric(a: Array) -> Array:
    """The nearest positive semi-definite matrix: halves of a coupled model need not be one."""
    values, ways = np.linalg.eigh((a + a.T) / 2)
    return (ways * np.maximum(values, 0)) @ ways.T


def lid_equations(lids: Sequence[tuple[int, Lid, float]]) -> Equations:
    """Equations of eyes that are seen to shut. lids: (0 left or 1 right, what was found, how much of it comes from looking
    down). An eye that is found open says little, since the rest of the face knows more of small movements; it does say
    that it does not follow the other in a wink.
    """
    a, b = np.zeros((len(SHAPES), len(SHAPES))), np.zeros(len(SHAPES))
    for eye, lid, down in lids:
        shut = float(np.clip((lid.shut - down) / (1 - min(down, 0.8)), 0, 1))
        belief = LID_BELIEF * np.clip((lid.alike - 0.65) / 0.15, 0, 1) * np.clip((shut - 0.2) / 0.25, 0.25, 1)
        blink, wide = (SHAPES.index(f"{name}{('Left', 'Right')[eye]}") for name in ("eyeBlink", "eyeWide"))
        a[blink, blink] += belief
        b[blink] += belief * shut
        a[wide, wide] += belief * shut  # a shut eye is not wide
    return Equations(a, b)


def openings(marks: Array) -> Array:
    """(2,) millimetres between the lids of the left and the right eye; marks: (478, 2) of landmarks in head space."""
    return np.array([np.mean([marks[up, 1] - marks[low, 1] for up, low in pairs]) for pairs in LID_PAIRS])


def opening_equations(rest: Array, now: Array, eyes: Sequence[tuple[int, float, float]]) -> Equations:
    """Equations of eyes that landmarks see shut, where it is not known what the shut lids look like. rest, now: (SIZE,) features;
    eyes: (0 left or 1 right, how much of it comes from looking down, 0..1 how far the eye is seen).
    """
    a, b = np.zeros((len(SHAPES), len(SHAPES))), np.zeros(len(SHAPES))
    share = openings(marks_of(now)) / np.maximum(openings(marks_of(rest)), 1e-6)
    for eye, down, seen in eyes:
        shut = float(np.clip((1 - share[eye]) / (1 - SHUT_OPENING) - down, 0, 1))
        belief = OPENING_BELIEF * seen * float(np.clip((shut - BEGINS_SHUT) / (SURELY_SHUT - BEGINS_SHUT), 0, 1))
        blink = SHAPES.index(f"eyeBlink{('Left', 'Right')[eye]}")
        a[blink, blink] += belief
        b[blink] += belief * shut
    return Equations(a, b)


def look_equations(basis: Array, looks: tuple[Look, Look], lids: Sequence[tuple[int, Lid, float]] = ()) -> Equations:
    """Equations of where both irises are; basis: (4, 52) degrees of left turn, left nod, right turn, right nod that a
    full weight makes; lids: as for `lid_equations`. Behind a lid there is no iris: what is found there is a lash or a fold.
    """
    a, b = np.zeros((len(SHAPES), len(SHAPES))), np.zeros(len(SHAPES))
    bare = [1.0, 1.0]
    for eye, lid, _ in lids:
        if lid.alike > SHUT_SEEN:
            bare[eye] = float(np.clip((HIDES - lid.shut) / (HIDES - COVERS), 0, 1))
    for eye, look in enumerate(looks):
        belief = bare[eye] * np.clip((look.alike - 0.55) / 0.3, 0, 1) / LOOK_NOISE**2
        for row, angle in ((2 * eye, look.turn), (2 * eye + 1, look.nod)):
            a += belief * np.outer(basis[row], basis[row])
            b += belief * angle * basis[row]
    return Equations(a, b)
