"""A pinhole camera that looks at a head.

Camera space: x to the right of the picture, y up, z toward the viewer; the camera is at the origin, so what is seen
has negative z. Pictures: x right, y down, in pixels. A pose takes head space into camera space.
"""

from dataclasses import dataclass

import numpy as np

from dynaface.core.body.rotations import head_angles, inverse, multiply
from dynaface.core.track.head import Array

FOV = 40.0  # degrees from top to bottom, of a lens of which nothing is known


@dataclass(frozen=True)
class Camera:
    """focal: pixels; centre: (x, y) pixels of the optical axis."""

    focal: float
    centre: tuple[float, float]

    def project(self, seen: Array) -> Array:
        """Camera space (..., 3) -> pixels (..., 2)."""
        away = -seen[..., 2]
        return np.stack(
            [self.centre[0] + self.focal * seen[..., 0] / away, self.centre[1] - self.focal * seen[..., 1] / away],
            axis=-1,
        )

    def placed(self, pixels: Array, away: Array) -> Array:
        """Pixels (..., 2) that are `away` (...) metres from the camera's plane -> camera space (..., 3)."""
        ray = (pixels - np.array(self.centre)) / self.focal
        away = np.broadcast_to(away, ray.shape[:-1])
        return np.stack([ray[..., 0] * away, -ray[..., 1] * away, -away], axis=-1)

    def slopes(self, seen: Array) -> Array:
        """(..., 2, 3) derivative of the pixels by camera space."""
        away = -seen[..., 2]
        out = np.zeros((*seen.shape[:-1], 2, 3))
        out[..., 0, 0] = self.focal / away
        out[..., 0, 2] = self.focal * seen[..., 0] / away**2
        out[..., 1, 1] = -self.focal / away
        out[..., 1, 2] = -self.focal * seen[..., 1] / away**2
        return out


def on_head(camera: Camera, poses: Array, pixels: Array, points: Array) -> Array:
    """(frames, n, 3) in head space of what is seen at pixels (frames, n, 2), each as far from the camera as points (frames, n, 3) of
    the head are in poses (frames, 7); NaN in frames without a pose.
    """
    out = np.full(points.shape, np.nan)
    for frame in np.flatnonzero(np.isfinite(poses[:, 0])):
        pose = Pose(poses[frame, :4], poses[frame, 4:])
        out[frame] = pose.unsee(camera.placed(pixels[frame], -pose.see(points[frame])[:, 2]))
    return out


def angles_of(poses: Array, rest: Array) -> Array:
    """(frames, 3) degrees by which a head in poses (frames, 7) is turned, nodded and tilted from a turn (4,), bridged where there is no
    pose.
    """
    known = np.flatnonzero(np.isfinite(poses[:, 0]))
    turned = np.stack(head_angles(multiply(poses[known, :4], inverse(rest))), axis=1)
    return np.stack([np.interp(np.arange(len(poses)), known, a) for a in turned.T], axis=1)


def camera_of(width: int, height: int, fov: float) -> Camera:
    """A camera by its vertical field of view in degrees."""
    return Camera(height / 2 / float(np.tan(np.radians(fov) / 2)), (width / 2, height / 2))


@dataclass(frozen=True)
class Pose:
    """turn: unit quaternion (4,) x, y, z, w; place: (3,) metres of the head's origin in camera space."""

    turn: Array
    place: Array

    def see(self, points: Array) -> Array:
        """Head space (..., 3) -> camera space (..., 3), metres."""
        return points @ self.matrix().T + self.place

    def unsee(self, seen: Array) -> Array:
        """Camera space (..., 3) -> head space (..., 3), metres."""
        return (seen - self.place) @ self.matrix()

    def matrix(self) -> Array:
        """(3, 3) of the turn."""
        x, y, z, w = self.turn
        return np.array([
            [1 - 2 * (y * y + z * z), 2 * (x * y - z * w), 2 * (x * z + y * w)],
            [2 * (x * y + z * w), 1 - 2 * (x * x + z * z), 2 * (y * z - x * w)],
            [2 * (x * z - y * w), 2 * (y * z + x * w), 1 - 2 * (x * x + y * y)],
        ])  # fmt: skip


def skew(v: Array) -> Array:
    """(..., 3, 3) with skew(v) @ x = v x x."""
    out = np.zeros((*v.shape, 3))
    out[..., 0, 1], out[..., 0, 2] = -v[..., 2], v[..., 1]
    out[..., 1, 0], out[..., 1, 2] = v[..., 2], -v[..., 0]
    out[..., 2, 0], out[..., 2, 1] = -v[..., 1], v[..., 0]
    return out


def moved(pose: Pose, step: Array) -> Pose:
    """The pose after a small turn (3,) rad and shift (3,) m in camera space about the head's origin."""
    angle = float(np.linalg.norm(step[:3]))
    axis = step[:3] / angle if angle > 1e-12 else np.array([1.0, 0.0, 0.0])
    turn = multiply(np.append(axis * np.sin(angle / 2), np.cos(angle / 2)), pose.turn)
    return Pose(turn / np.linalg.norm(turn), pose.place + step[3:])


def pose_slopes(camera: Camera, pose: Pose, points: Array) -> tuple[Array, Array, Array]:
    """(seen (n, 3), slopes (n, 2, 3) by camera space, by_pose (n, 2, 6) by the step of `moved`)."""
    seen = pose.see(points)
    slopes = camera.slopes(seen)
    by_turn = slopes @ -skew(seen - pose.place)
    return seen, slopes, np.concatenate([by_turn, slopes], axis=-1)
