"""One frame: pose and weights from the motion of the skin, by Gauss-Newton between looks at the picture."""

from collections.abc import Callable
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from dynaface.core.numeric.bounded import solve_bounded
from dynaface.core.solve.equations import Equations
from dynaface.core.solve.jaw import JAW, above
from dynaface.core.solve.motion import MotionFinder, Seen
from dynaface.core.solve.reference import Reference
from dynaface.core.solve.skin_noise import SkinNoise
from dynaface.core.track.camera import Camera, Pose, moved, pose_slopes
from dynaface.core.track.head import Array

ALIKE = 0.35  # below this correlation a point is not trusted at all
OUTLIER = 2.5  # pixels


@dataclass(frozen=True)
class FaceModel:
    """A performer's own face: points (vertices, 3), shapes (shapes, vertices, 3), the jaw's arc (vertices, 3), the reference, and
    all three at its measured points: at (n, 3), by (n, 3, shapes), bends (n, 3).
    """

    points: Array
    shapes: Array
    arc: Array
    reference: Reference
    at: Array
    by: Array
    bends: Array

    def posed(self, weights: Array) -> Array:
        """(vertices, 3) in head space."""
        return self.points + np.tensordot(weights, self.shapes, axes=1) + above(weights) * self.arc

    def measured(self, weights: Array) -> Array:
        """(n, 3) of the measured points in head space."""
        return self.at + self.by @ weights + above(weights) * self.bends

    def slopes(self, weights: Array) -> Array:
        """(n, 3, shapes) by which each weight moves them there."""
        out = self.by.copy()
        out[..., JAW] += (1 - 2 * weights[JAW]) * self.bends
        return out

    def with_picture(self, picture: NDArray[np.float32]) -> "FaceModel":
        """The same with a neutral picture (height, width), grey."""
        return replace(self, reference=replace(self.reference, picture=picture))


def face_model(points: Array, shapes: Array, arc: Array, reference: Reference) -> FaceModel:
    """A model with its measured points worked out."""
    by = np.moveaxis(reference.on(shapes), 0, -1).copy()
    return FaceModel(points, shapes, arc, reference, reference.on(points), by, reference.on(arc))


@dataclass(frozen=True)
class Solved:
    """A frame's pose and weights, its equations, what was seen, and (n,) how much each point was trusted 0..1."""

    pose: Pose
    weights: Array
    equations: Equations
    seen: Seen
    trust: Array


def measure(model: FaceModel, camera: Camera, pose: Pose, weights: Array, seen: Seen, noise: SkinNoise
            ) -> tuple[Equations, Array, Array, Array, Array]:  # fmt: skip
    """Equations about a state, and what gives the pose back: (equations, pp, pw, bp, trust). What is unknown beside the
    weights are the six of the pose, then how far points are off in each of their ways.
    """
    looked, slopes, by_pose = pose_slopes(camera, pose, model.measured(weights))
    turned = slopes @ pose.matrix()
    by_weight = turned @ model.slopes(weights)
    left = seen.pixels - camera.project(looked)
    alike = np.clip((seen.likeness - ALIKE) / (1 - ALIKE), 0, 1)
    trust = alike / (1 + (left**2).sum(axis=1) / OUTLIER**2) ** 2
    inverse = np.repeat(trust / noise.alone**2, 2)
    jp = np.concatenate([by_pose, turned @ noise.together], axis=2).reshape(2 * len(left), -1)
    jw, r = by_weight.reshape(-1, by_weight.shape[-1]), left.reshape(-1)
    weighed_p, weighed_w = jp * inverse[:, None], jw * inverse[:, None]
    pp, pw, ww = jp.T @ weighed_p, jp.T @ weighed_w, jw.T @ weighed_w
    bp, bw = weighed_p.T @ r, weighed_w.T @ r
    # A pose that landmarks found is worth something when few points are trusted.
    pp = pp + np.diag([1 / 0.05**2] * 3 + [1 / 0.01**2] * 3 + [1.0] * noise.together.shape[2])
    solved = np.linalg.solve(pp, np.column_stack([pw, bp]))
    a = ww - pw.T @ solved[:, :-1]
    b = bw - pw.T @ solved[:, -1] + a @ weights
    return Equations(a, b), pp, pw, bp, trust


def solve_frame(model: FaceModel, finder: MotionFinder, camera: Camera, picture: NDArray[np.uint8], pose: Pose,
                weights: Array, prior: Equations, high: Array, noise: SkinNoise, looks: int = 2,
                held: Callable[[Array], Array] | None = None) -> Solved:  # fmt: skip
    """picture: (height, width) grey; pose, weights: first guess; prior: equations that are added; high: (shapes,) upper
    limits (0 switches a shape off); noise: of the measured points; held: how far b is lowered for an a.
    """
    low = np.zeros(len(weights))
    for _ in range(looks):
        pixels = camera.project(pose.see(model.posed(weights)))
        seen = finder.find(picture, pixels)
        for _step in range(2):
            measured, pp, pw, bp, trust = measure(model, camera, pose, weights, seen, noise)
            whole = measured + prior
            b = whole.b - held(whole.a) if held else whole.b
            new = solve_bounded(whole.a, b, weights, low, high)
            step = np.linalg.solve(pp, bp - pw @ (new - weights))[:6]
            weights, pose = new, moved(pose, np.clip(step, -0.2, 0.2))
    return Solved(pose, weights, measured, seen, trust)
