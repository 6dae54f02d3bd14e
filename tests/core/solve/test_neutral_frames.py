"""Which frames of a clip are neutral: made faces whose truth is known, and the demo's own clip."""

import json
from dataclasses import replace

import numpy as np
import pytest

from dynaface.assets import ASSETS
from dynaface.core.body.rotations import head_rotation
from dynaface.core.errors import InputError
from dynaface.core.shapes.standard import SHAPES
from dynaface.core.solve.neutral_frames import MOST, TAKEN, expressed, frames_about, neutral_frames
from dynaface.core.track.camera import Pose, camera_of
from dynaface.core.track.landmarks import Landmarks
from dynaface.core.track.neutral import neutral_doubts
from dynaface.demo.seed import FINE
from dynaface.formats.head_file import general_head, landmark_places
from dynaface.services.footage.seen_landmarks import unpacked

HEAD, PLACES = general_head(), landmark_places()
SIZE = (640, 480)
CAMERA = camera_of(*SIZE, 40.0)
REST = range(30, 42)  # frames of the made clip in which nothing is expressed
BUSY = ("browDownLeft", "browDownRight", "jawOpen", "mouthSmileLeft", "mouthSmileRight", "mouthPucker", "browInnerUp")


def weights(frames: int, seed: int) -> np.ndarray:
    """(frames, 52) of a face that always does something, but not always the same, and rests once."""
    rng = np.random.default_rng(seed)
    out = np.zeros((frames, len(SHAPES)))
    for shape in BUSY:
        for start in range(0, frames, 12):
            out[start : start + 12, SHAPES.index(shape)] = rng.choice([0.0, 0.0, 0.5, 0.9])
        out[:, SHAPES.index(shape)] += 0.05 * rng.random(frames)
    idle = out.sum(axis=1) < 0.6
    out[idle, SHAPES.index("jawOpen")] = 0.6
    out[REST.start : REST.stop] = 0.0
    return out


def clip(frames: int = 120, seed: int = 4, turned: float = 12.0) -> list[Landmarks | None]:
    """Exact landmarks of the general head with another likeness, which turns to and fro by degrees; scores of the shapes, dulled."""
    rng = np.random.default_rng(seed)
    points = HEAD.points + np.tensordot(rng.normal(0, 0.6, len(HEAD.modes)), HEAD.modes, axes=1)
    found: list[Landmarks | None] = []
    for number, own in enumerate(weights(frames, seed)):
        turn = head_rotation(*(np.array([a]) for a in (turned * np.sin(number / 17), 4 * np.sin(number / 11), 0.0)))[0]
        face = points + np.tensordot(own, HEAD.shapes, axes=1)
        pixels = CAMERA.project(Pose(turn, np.array([0.0, 0.0, -0.55])).see(PLACES.on(face)))
        pixels = np.vstack([pixels + rng.normal(0, 0.3, pixels.shape), np.zeros((10, 2))])
        scores = np.clip(0.6 * own + 0.1 + rng.normal(0, 0.03, len(SHAPES)), 0, 1)
        found.append(Landmarks(pixels.astype(np.float32), scores.astype(np.float32)))
    return found


@pytest.mark.parametrize("seed", [4, 5, 6])
def test_the_frames_at_rest_are_found_though_it_is_never_still_otherwise(seed):
    chosen = neutral_frames(HEAD, PLACES, CAMERA, clip(seed=seed), 30.0)
    assert len(chosen) == TAKEN
    assert chosen == sorted(set(chosen))
    assert len(set(chosen) & set(REST)) >= TAKEN - 4


def test_frames_without_a_face_are_passed_over():
    found = clip()
    for lost in (*range(0, 20), 33, 90):
        found[lost] = None
    chosen = neutral_frames(HEAD, PLACES, CAMERA, found, 30.0)
    assert all(found[n] is not None for n in chosen)
    assert len(set(chosen) & set(REST)) >= TAKEN - 5
    with pytest.raises(InputError, match="no face is seen"):
        neutral_frames(HEAD, PLACES, CAMERA, [None] * 9, 30.0)
    with pytest.raises(InputError, match="no face is seen"):
        neutral_frames(HEAD, PLACES, CAMERA, [], 30.0)


def test_a_single_picture_is_neutral():
    assert neutral_frames(HEAD, PLACES, CAMERA, clip(1), 30.0) == [0]


class Asked(list[Landmarks | None]):
    """Remembers which frames were asked for."""

    def __init__(self, found: list[Landmarks | None]) -> None:
        super().__init__(found)
        self.asked: set[int] = set()

    def __getitem__(self, at):  # type: ignore[no-untyped-def]
        self.asked.add(at)
        return super().__getitem__(at)


def test_of_a_long_clip_so_many_frames_are_looked_at_from_its_beginning_to_its_end():
    found = Asked(clip(40) * 60)
    assert neutral_frames(HEAD, PLACES, CAMERA, found, 30.0)
    assert len(found.asked) <= MOST < len(found)
    assert {0, len(found) - 1} <= found.asked


def test_nothing_that_is_plainly_seen_is_taken_for_neutral_in_the_demos_range_of_motion():
    found = [unpacked(row.astype(np.float32) / FINE) for row in np.load(ASSETS / "demo/mara_footage.npz")["rom"]]
    samples = json.loads((ASSETS / "demo/mara_samples.json").read_text())["samples"]
    chosen = neutral_frames(HEAD, PLACES, CAMERA, found, 30.0)
    plain = [
        samples[s] for s in (*BUSY, "eyeBlinkLeft", "browOuterUpLeft", "mouthFunnel", "noseSneerLeft", "mouthLeft")
    ]
    assert min(abs(n - at) for n in chosen for at in plain) > 4
    assert neutral_doubts([found[n] for n in chosen]) == []


def test_what_is_common_is_told_from_what_is_expressed():
    rng = np.random.default_rng(2)
    effects = np.zeros((80 + len(SHAPES), len(SHAPES)))
    effects[:80, :8] = rng.normal(0, 4, (80, 8))
    effects[80:, :8] = np.eye(len(SHAPES))[:, :8] * 7
    true = np.zeros((60, len(SHAPES)))
    true[:, :8] = np.where(rng.random((60, 8)) < 0.25, rng.random((60, 8)), 0)
    turns = np.radians(rng.normal(0, 8, (60, 3)))
    features = true @ effects.T + rng.normal(0, 3, effects.shape[0]) + turns @ rng.normal(0, 2, (3, effects.shape[0]))
    found = expressed(effects, features, turns)
    assert (found >= 0).all()
    assert (found[:, 8:] == 0).all()
    assert np.corrcoef(found.sum(axis=1), true.sum(axis=1))[0, 1] > 0.9


def test_frames_about_a_chosen_one_are_those_with_a_face():
    found = clip(20)
    found[6] = None
    assert frames_about(found, 8, 10.0) == [7, 8, 9, 10]
    assert frames_about(found, 0, 10.0) == [0, 1, 2]
    with pytest.raises(InputError, match="frame 6"):
        frames_about(found, 6, 10.0)
    for beyond in (20, -1):
        with pytest.raises(InputError, match="has 20 frames"):
            frames_about(found, beyond, 10.0)


def test_scores_alone_do_not_decide():
    """A performer whose mouth is scored as smiling at rest."""
    found = clip()
    at = [SHAPES.index(f"mouthSmile{side}") for side in ("Left", "Right")]
    for mark in found:
        mark.scores[at] = np.clip(mark.scores[at] + 0.3, 0, 1)
    found = [replace(m) for m in found]
    assert len(set(neutral_frames(HEAD, PLACES, CAMERA, found, 30.0)) & set(REST)) >= TAKEN - 4
