"""One frame's weights from exact measurements: known answers and properties."""

import numpy as np
import pytest

from dynaface.core.body.rotations import head_rotation
from dynaface.core.numeric.bounded import solve_bounded
from dynaface.core.shapes.standard import SHAPES, mirrored
from dynaface.core.solve.frame import measure
from dynaface.core.solve.motion import Seen
from dynaface.core.solve.skin_noise import PIXEL_NOISE, SkinNoise, unknown_noise
from dynaface.core.track.camera import Pose, camera_of, moved

CAMERA = camera_of(640, 640, 36.0)
# Seen from the front in the skin alone: not the tongue, not the gaze.
SEEN = np.array([s != "tongueOut" and not s.startswith("eyeLook") for s in SHAPES])


def pose(*angles):
    return Pose(head_rotation(*(np.array([float(a)]) for a in angles))[0], np.array([0.0, 0.0, -0.5]))


def solved(model, truth, at, start=None):
    """Gauss-Newton from rest on exact pixels."""
    pixels = CAMERA.project(at.see(model.measured(truth)))
    seen = Seen(pixels, np.ones(len(pixels)))
    weights, now = np.zeros(len(SHAPES)), start or at
    noise = unknown_noise(len(pixels))
    for _ in range(25):
        told, pp, pw, bp, _ = measure(model, CAMERA, now, weights, seen, noise)
        new = solve_bounded(
            told.a + 1e-7 * np.eye(len(SHAPES)), told.b, weights, np.zeros(52), SEEN.astype(float), 3000
        )
        step = np.linalg.solve(pp, bp - pw @ (new - weights))[:6]
        weights, now = new, moved(now, step)
    return weights


@pytest.mark.parametrize("seed", range(3))
def test_weights_are_found_again_without_noise(model, seed):
    rng = np.random.default_rng(seed)
    truth = np.where(rng.random(52) < 0.3, rng.uniform(0.1, 0.9, 52), 0.0) * SEEN
    assert solved(model, truth, pose(0, 0, 0)) == pytest.approx(truth, abs=1e-3)


def test_a_rigid_motion_does_not_change_the_weights(model):
    truth = np.zeros(52)
    truth[[SHAPES.index(s) for s in ("jawOpen", "mouthSmileLeft", "browInnerUp")]] = (0.5, 0.7, 0.4)
    for angles in ((12, 0, 0), (-10, 8, 0), (0, -6, 9)):
        found = solved(
            model, truth, pose(*angles), moved(pose(*angles), np.array([0.01, -0.01, 0.01, 0.002, 0, 0.004]))
        )
        assert found == pytest.approx(truth, abs=1e-3)


def test_a_mirrored_face_gives_mirrored_weights(model):
    rng = np.random.default_rng(9)
    truth = np.where(rng.random(52) < 0.25, 0.6, 0.0) * SEEN
    flipped = truth[[SHAPES.index(mirrored(s)) for s in SHAPES]]
    one, other = solved(model, truth, pose(6, 0, 0)), solved(model, flipped, pose(-6, 0, 0))
    assert other[[SHAPES.index(mirrored(s)) for s in SHAPES]] == pytest.approx(one, abs=2e-3)


def test_points_that_look_unlike_the_neutral_face_do_not_count(model):
    truth = np.zeros(52)
    truth[SHAPES.index("jawOpen")] = 0.5
    pixels = CAMERA.project(pose(0, 0, 0).see(model.at + model.by @ truth))
    hidden = model.at[:, 1] < -0.03
    pixels[hidden] += 25
    noise = SkinNoise(np.ones(len(pixels)), np.zeros((len(pixels), 3, 0)))
    told = [measure(model, CAMERA, pose(0, 0, 0), np.zeros(52), Seen(pixels, np.where(hidden, like, 1.0)), noise)
            for like in (0.0, 0.2)]  # fmt: skip
    assert told[0][4][hidden].max() == 0
    assert told[0][0].b == pytest.approx(told[1][0].b)


def test_the_reference_holds_the_face_and_not_the_neck(model):
    corners = model.reference.corners[model.reference.points]
    heights = model.points[corners, 1]
    assert heights.min() > -0.14
    assert len(model.reference.points) > 500


def test_points_that_are_off_together_say_little_of_the_shape_that_looks_like_it(model):
    roll, brow = SHAPES.index("mouthRollLower"), SHAPES.index("browInnerUp")
    at = pose(0, 0, 0)
    seen = Seen(CAMERA.project(at.see(model.at)), np.ones(len(model.at)))
    alone = np.full(len(model.at), PIXEL_NOISE)
    way = 0.5 * model.by[..., [roll]]

    def certain(together):
        return np.diag(measure(model, CAMERA, at, np.zeros(52), seen, SkinNoise(alone, together))[0].a)

    before, after = certain(way[..., :0]), certain(way)
    # Half of the shape is one standard deviation of the noise: less than that is not known of it, whatever is seen.
    assert before[roll] > 100
    assert after[roll] == pytest.approx(1 / 0.5**2, rel=0.05)
    assert after[brow] == pytest.approx(before[brow], rel=0.05)
