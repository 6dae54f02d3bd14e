"""The neutral face of a clip of which nothing is known: the frames in which the least is expressed.

Landmarks and learned scores of all frames are explained together by what all have in common (the performer's likeness, and how the
landmark model sees a turned head) and by expressions of each frame, which are never negative and held back by an absolute penalty: a
common part that is not neutral would have to be undone by expressions in most other frames.
"""

from collections.abc import Sequence

import numpy as np
from scipy.ndimage import uniform_filter1d
from scipy.spatial.transform import Rotation

from dynaface.core.errors import InputError
from dynaface.core.numeric.bounded import solve_bounded
from dynaface.core.shapes.standard import SHAPES
from dynaface.core.solve.features import LANDMARKS, LOOKS, landmark_features
from dynaface.core.solve.priors import sides_alike
from dynaface.core.track.camera import Camera, Pose
from dynaface.core.track.head import Array, Head
from dynaface.core.track.landmarks import Landmarks
from dynaface.core.track.likeness import Places, fit_modes, fit_pose

TAKEN = 12  # frames that are averaged
MOST, SIDES_SEEN = 600, 16  # frames that are looked at, and those of them that the likeness is fitted to
ROUNDS = 5
SKIN = 468  # landmarks that are no iris
ABOUT = 1 / 6  # seconds: an expression passes no faster
LANDMARK_SIZE, SCORE_SIZE, MODEL_ERROR = 1.0, 2.0, 0.25  # millimetres and tenths of noise; share of what a shape does
LANDMARK_TRUST, SCORE_TRUST = 0.06, 0.3  # their errors go together
FULL_SCORE = 7.0  # tenths that a shape's full weight scores
RIDGE, ALIKE, HELD = 0.3, 2.0, 1.0  # of small weights, of both sides, and what each weight costs whatever its size
BESIDE = 0.2  # seconds about a frame that was chosen
TURNED = 25.0  # degrees of turn that count as a tenth of a weight


def neutral_frames(
    head: Head, places: Places, camera: Camera, found: Sequence[Landmarks | None], rate: float
) -> list[int]:
    """Numbers, rising, of the frames that are the most neutral; raises InputError where no face is seen."""
    marks = {n: m for n, m in ((n, found[n]) for n in _spread(len(found), MOST)) if m is not None}
    if not marks:
        raise InputError("no face is seen in any frame", hint="Check that the face is in the picture, upright and lit")
    seen = list(marks.values())
    poses, features = _features(head, places, camera, seen)
    turns = Rotation.from_quat([p.turn for p in poses]).as_euler("YXZ")
    weights = expressed(_effects(head, places), features, turns)
    step = len(found) / min(len(found), MOST)
    about = max(1, round(rate * ABOUT / step)) | 1
    effort = uniform_filter1d(weights.sum(axis=1), about) + 0.1 * (turns[:, 0] / np.radians(TURNED)) ** 2
    numbers = np.array(list(marks))
    return [int(n) for n in np.sort(numbers[np.argsort(effort, kind="stable")[:TAKEN]])]


def frames_about(found: Sequence[Landmarks | None], frame: int, rate: float) -> list[int]:
    """Numbers of the frames about one that was chosen, in which a face is seen; raises InputError where none is in that one."""
    if not 0 <= frame < len(found):
        raise InputError(f"frame {frame} is to be neutral, but the clip has {len(found)} frames")
    if found[frame] is None:
        raise InputError(f"no face is seen in frame {frame}, which is to be neutral")
    reach = max(1, round(rate * BESIDE))
    about = range(max(0, frame - reach), min(len(found), frame + reach + 1))
    return [n for n in about if found[n] is not None]


def expressed(effects: Array, features: Array, turns: Array) -> Array:
    """(frames, shapes) what each frame expresses beside what all have in common.

    effects: (n, shapes) of full weights on features (frames, n), landmarks' before scores'; turns: (frames, 3) radians of the head.
    """
    marks = len(effects) - len(SHAPES)
    size = np.concatenate([
        LANDMARK_SIZE**2 + (MODEL_ERROR * np.abs(effects[:marks]).max(axis=1)) ** 2, np.full(len(SHAPES), SCORE_SIZE**2)
    ])  # fmt: skip
    trust = np.concatenate([np.full(marks, LANDMARK_TRUST), np.full(len(SHAPES), SCORE_TRUST)]) / size
    known = np.abs(effects).max(axis=0) > 0
    by_features = effects.T * trust
    a = by_features @ effects + RIDGE * np.eye(len(SHAPES)) + ALIKE * sides_alike()
    low, high = np.zeros(len(SHAPES)), known.astype(np.float64)
    aside = turns - np.median(turns, axis=0)
    ways = np.column_stack([np.ones(len(turns)), aside, aside**2])
    held = ways.T @ ways + np.diag([1e-6] + [0.5] * 6)
    common = np.zeros((ways.shape[1], features.shape[1]))
    common[0] = np.median(features, axis=0)
    weights = np.zeros((len(features), len(SHAPES)))
    for _ in range(ROUNDS):
        b = (features - ways @ common) @ by_features.T - HELD
        for frame in range(len(features)):
            weights[frame] = solve_bounded(a, b[frame], weights[frame], low, high)
        common = np.linalg.solve(held, ways.T @ (features - weights @ effects.T))
    return weights


def _spread(frames: int, most: int) -> list[int]:
    """At most so many numbers of frames, evenly."""
    return np.unique(np.linspace(0, frames - 1, min(frames, most)).round().astype(int)).tolist() if frames else []


def _features(head: Head, places: Places, camera: Camera, seen: Sequence[Landmarks]) -> tuple[list[Pose], Array]:
    """(poses, (frames, n) features) of frames, by one likeness for all."""
    pixels = [m.points[:SKIN].astype(np.float64) for m in seen]
    amount, _, _ = fit_modes(head, places, camera, [pixels[i] for i in _spread(len(seen), SIDES_SEEN)], 6)
    marks = places.on(head.points + np.tensordot(amount, head.modes, axes=1))
    whole = np.vstack([marks, np.repeat(marks[-1:], LANDMARKS // 2 - SKIN, axis=0)])
    poses: list[Pose] = []
    rows = []
    for mark, own in zip(seen, pixels, strict=True):
        poses.append(fit_pose(camera, marks, own, poses[-1] if poses else None, places.trust, 6))
        points, scores = mark.points.astype(np.float64), mark.scores.astype(np.float64)
        rows.append(landmark_features(camera, points, scores, poses[-1], whole))
    return poses, np.delete(np.array(rows), np.s_[2 * SKIN : LANDMARKS], axis=1)


def _effects(head: Head, places: Places) -> Array:
    """(n, shapes) what full weights of the general head do to the features; looks and the tongue do nothing to them."""
    moved = np.stack([places.on(s) for s in head.shapes], axis=-1)[:, :2].reshape(2 * SKIN, -1) * 1000
    effects = np.concatenate([moved, np.eye(len(SHAPES)) * FULL_SCORE])
    effects[:, [s in LOOKS or s == "tongueOut" for s in SHAPES]] = 0.0
    return effects
