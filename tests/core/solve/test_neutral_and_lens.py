"""The neutral face and the lens, from landmarks: the demo's own, and exact ones of a head that is known."""

import json

import numpy as np
import pytest

from dynaface.assets import ASSETS
from dynaface.core.body.rotations import head_rotation
from dynaface.core.track.camera import Pose, camera_of
from dynaface.core.track.lens import estimate_lens, from_several_sides
from dynaface.core.track.neutral import neutral_doubts, stillest, wanders
from dynaface.demo.seed import FINE
from dynaface.formats.head_file import general_head, landmark_places
from dynaface.services.footage.seen_landmarks import unpacked

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


@pytest.mark.parametrize("fov", [26.0, 40.0])
def test_the_lens_is_found_from_exact_landmarks(fov):
    head, places = general_head(), landmark_places()
    camera, at = camera_of(640, 640, fov), places.on(head.points)
    away = 0.14 / np.tan(np.radians(fov / 2))
    pictures = []
    for angles in ((0, 0, 0), (25, 0, 0), (-25, 5, 0), (0, 18, 0), (10, -15, 4)):
        turn = head_rotation(*(np.array([float(a)]) for a in angles))[0]
        pictures.append(camera.project(Pose(turn, np.array([0.0, 0.0, -away])).see(at)))
    found = estimate_lens(head, places, (640, 640), pictures)
    assert found.fov == pytest.approx(fov, abs=2.5)
    assert found.low <= found.fov <= found.high


def test_pictures_from_several_sides_are_chosen():
    points = np.array([m.points[:468] for m in seen("turn")], np.float64)
    chosen = from_several_sides(points, 5)
    assert len(set(chosen)) == 5
    nose = points[chosen, 1, 0] - (points[chosen, 234, 0] + points[chosen, 454, 0]) / 2
    assert np.ptp(nose) > 0.8 * np.ptp(points[:, 1, 0] - (points[:, 234, 0] + points[:, 454, 0]) / 2)
