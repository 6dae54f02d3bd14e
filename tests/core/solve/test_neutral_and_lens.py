"""The neutral face from the demo's landmarks; the lens from exact tracks of a head that is known, and from the demo's head turn."""

import json

import numpy as np
import pytest

from dynaface.assets import ASSETS
from dynaface.core.body.rotations import head_rotation
from dynaface.core.errors import InputError
from dynaface.core.track.camera import Pose, camera_of
from dynaface.core.track.lens import Track, from_several_sides, lens_of_tracks
from dynaface.core.track.neutral import neutral_doubts, stillest, wanders
from dynaface.demo.seed import FINE
from dynaface.formats.entries import video
from dynaface.formats.head_file import general_head, landmark_places
from dynaface.pipelines.measure_lens import measure_lens
from dynaface.services.footage.seen_landmarks import unpacked
from tools.demo.footage import DESK_LAMP

KNOWN = np.load(ASSETS / "demo/mara_footage.npz")
NAMED = json.loads((ASSETS / "demo/mara_samples.json").read_text())


def seen(part):
    return [unpacked(row.astype(np.float32) / FINE) for row in KNOWN[part]]


def test_a_face_that_moves_about_is_told_from_one_that_stays():
    assert wanders([m for m in seen("turn") if m])
    assert wanders([m for m in seen("clip") if m])
    assert not wanders([m for m in seen("rom") if m])
    assert not wanders([])


def test_the_stillest_second_is_neutral():
    found = seen("rom")
    first, last = stillest(found, 30.0)
    assert last - first == 29
    assert neutral_doubts(found[first : last + 1]) == []
    assert neutral_doubts(found[NAMED["neutral"][0] : NAMED["neutral"][1]]) == []


@pytest.mark.parametrize(("shape", "said"), [("jawOpen", "mouth"), ("eyeBlinkLeft", "shut")])
def test_an_expression_is_not_neutral(shape, said):
    frame = NAMED["samples"][shape]
    assert said in " ".join(neutral_doubts(seen("rom")[frame - 1 : frame + 2]))


def test_a_turned_head_and_an_absent_one_are_told():
    turn = seen("turn")
    away = np.array([m.points[1, 0] - (m.points[234, 0] + m.points[454, 0]) / 2 for m in turn])
    furthest = int(np.argmax(np.abs(away)))
    assert "turned" in " ".join(neutral_doubts([turn[furthest]]))
    assert neutral_doubts([turn[0], None]) == ["no face is seen in 1 of 2 frames"]


SIZE = (640, 640)
TURNS = [(0, 0, 0), (25, 0, 0), (-25, 5, 0), (0, 18, 0), (10, -15, 4), (-12, 0, 0), (18, 10, 0)]


def tracked(fov, assumed=40.0, noise=0.0, bent=0.0, turns=TURNS):
    """(assumed points at rest, tracks) of a head before a lens, whose own points differ from those that are assumed."""
    rng = np.random.default_rng(3)
    rest = landmark_places().on(general_head().points)
    own = rest + rng.normal(0, bent, rest.shape)
    camera, away = camera_of(*SIZE, fov), 0.14 / np.tan(np.radians(fov / 2))
    guessed = 0.14 / np.tan(np.radians(assumed / 2))
    tracks = []
    for angles in turns:
        turn = head_rotation(*(np.array([float(a)]) for a in angles))[0]
        pixels = camera.project(Pose(turn, np.array([0.0, 0.0, -away])).see(own))
        pixels += rng.normal(0, noise, pixels.shape)
        tracks.append(Track(pixels, np.ones(len(rest)), Pose(turn, np.array([0.0, 0.0, -guessed]))))
    return rest, tracks


@pytest.mark.parametrize("fov", [24.0, 40.0, 60.0])
def test_the_lens_is_found_whatever_was_assumed(fov):
    found = lens_of_tracks(SIZE, 40.0, *tracked(fov, noise=0.3, bent=0.002))
    assert found.fov == pytest.approx(fov, rel=0.05)
    assert found.low < found.fov < found.high


def test_points_that_are_hidden_say_nothing():
    rest, tracks = tracked(30.0)
    hidden = np.arange(len(rest)) % 3 == 0
    wild = [Track(t.pixels + 40 * hidden[:, None], np.where(hidden, 0.3, 1.0), t.pose) for t in tracks]
    assert lens_of_tracks(SIZE, 40.0, rest, wild).fov == pytest.approx(30.0, rel=0.03)
    with pytest.raises(InputError, match="too little of the face"):
        lens_of_tracks(SIZE, 40.0, rest, [Track(t.pixels, np.full(len(rest), 0.4), t.pose) for t in tracks])


def test_a_head_that_does_not_turn_says_nothing_of_the_lens():
    with pytest.raises(InputError, match="turns too little"):
        lens_of_tracks(SIZE, 40.0, *tracked(30.0, noise=0.3, bent=0.002, turns=[(0, 0, 0)] * 4))


def test_the_lens_of_the_demo_is_measured():
    clip = video.read((ASSETS / "demo/mara_turn.mp4").read_bytes())
    found = measure_lens(clip, seen("turn"))
    assert found.low < DESK_LAMP.fov < found.high
    with pytest.raises(InputError, match="too few frames"):
        measure_lens(clip, [None] * clip.frames)


def test_pictures_from_several_sides_are_chosen():
    points = np.array([m.points[:468] for m in seen("turn")], np.float64)
    chosen = from_several_sides(points, 5)
    assert len(set(chosen)) == 5
    nose = points[chosen, 1, 0] - (points[chosen, 234, 0] + points[chosen, 454, 0]) / 2
    assert np.ptp(nose) > 0.8 * np.ptp(points[:, 1, 0] - (points[:, 234, 0] + points[:, 454, 0]) / 2)
