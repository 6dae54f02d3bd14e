"""Fits the general head to a performer's neutral face: pose, likeness, then what is left as a smooth change."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from dynaface.core.track.camera import Camera, Pose, moved, pose_slopes
from dynaface.core.track.head import Array, Head

STIFF = 30.0  # how far a likeness is held to the general head


@dataclass(frozen=True)
class Places:
    """Where the landmarks lie on the general head: corners (n, 3) vertices, weights (n, 3), spread (n,) metres."""

    corners: NDArray[np.int32]
    weights: Array
    spread: Array

    @property
    def trust(self) -> Array:
        """(n,) weights of the landmarks for a pose: the more surely they lie where they are said to, the more."""
        return 1e-6 / (0.0015 + self.spread) ** 2

    def on(self, points: Array) -> Array:
        """(n, 3) of vertices (vertices, 3), or (n, 2) of their pixels."""
        return (points[self.corners] * self.weights[..., None]).sum(axis=1)


def start_pose(camera: Camera, points: Array, pixels: Array) -> Pose:
    """A first pose of points (n, 3) seen at pixels (n, 2): upright, at the distance that their size says."""
    spread = np.linalg.norm(points[:, :2] - points[:, :2].mean(axis=0), axis=1).mean()
    seen = np.linalg.norm(pixels - pixels.mean(axis=0), axis=1).mean()
    away = camera.focal * spread / max(float(seen), 1e-6)
    middle = (pixels.mean(axis=0) - camera.centre) / camera.focal * away
    place = np.array([middle[0], -middle[1], -away]) - points.mean(axis=0)
    return Pose(np.array([0.0, 0.0, 0.0, 1.0]), place)


def fit_pose(camera: Camera, points: Array, pixels: Array, pose: Pose | None, weights: Array, rounds: int = 8) -> Pose:
    """The pose that puts points (n, 3) on pixels (n, 2), robustly (Geman-McClure on 4 px); weights (n,)."""
    pose = pose or start_pose(camera, points, pixels)
    for _ in range(rounds):
        seen, _, slopes = pose_slopes(camera, pose, points)
        left = pixels - camera.project(seen)
        robust = weights / (1 + (left**2).sum(axis=1) / 16.0) ** 2
        by_pose = slopes.reshape(-1, 6)
        weighed = by_pose * np.repeat(robust, 2)[:, None]
        step = np.linalg.solve(by_pose.T @ weighed + 1e-9 * np.eye(6), weighed.T @ left.ravel())
        pose = moved(pose, step)
        if np.abs(step).max() < 1e-7:
            break
    return pose


@dataclass(frozen=True)
class Likeness:
    """points: (vertices, 3) the performer's neutral; poses: of the pictures it was fitted to."""

    points: Array
    poses: tuple[Pose, ...]


def fit_likeness(head: Head, places: Places, camera: Camera, seen: Sequence[Array], rounds: int = 10) -> Likeness:
    """The performer's neutral head from landmarks (468, 2) of pictures of a neutral face, best from several sides.

    Gauss-Newton over poses and likeness together; then what the first picture still shows aside is taken up by a smooth
    change in its picture plane (Gaussian kernel regression).
    """
    amount, poses, trust = fit_modes(head, places, camera, seen, rounds)
    points = head.points + np.tensordot(amount, head.modes, axes=1)
    poses = [fit_pose(camera, places.on(points), s, p, trust, 10) for s, p in zip(seen, poses, strict=True)]
    return Likeness(points + _left_over(places, camera, seen[0], poses[0], points, trust), tuple(poses))


def fit_modes(head: Head, places: Places, camera: Camera, seen: Sequence[Array], rounds: int
              ) -> tuple[Array, list[Pose], Array]:  # fmt: skip
    """(amounts of the modes, pose of each picture, (468,) trust in each landmark)."""
    modes = np.stack([places.on(m) for m in head.modes])
    base = places.on(head.points)
    trust = 1 / (0.0015 + places.spread) ** 2
    trust = trust / trust.mean()
    amount = np.zeros(len(modes))
    poses: list[Pose] = [fit_pose(camera, base, s, None, trust, 20) for s in seen]
    stiff = STIFF * np.eye(len(modes)) * len(seen)
    for _ in range(rounds):
        points = base + np.tensordot(amount, modes, axes=1)
        poses = [fit_pose(camera, points, s, p, trust, 3) for s, p in zip(seen, poses, strict=True)]
        a, b = stiff.copy(), -stiff @ amount
        for pixels, pose in zip(seen, poses, strict=True):
            looked, slopes, by_pose = pose_slopes(camera, pose, points)
            rotation = pose.matrix()
            by_mode = ((slopes @ rotation) @ modes.transpose(1, 2, 0)).reshape(2 * len(points), -1)
            by_pose = by_pose.reshape(-1, 6)
            left = pixels - camera.project(looked)
            robust = trust / (1 + (left**2).sum(axis=1) / 64.0) ** 2
            weighed = np.repeat(robust, 2)[:, None] * np.column_stack([by_pose, by_mode, left.ravel()])
            pp, pm, bp = np.split(by_pose.T @ weighed, [6, -1], axis=1)
            mm, bm = np.split(by_mode.T @ weighed[:, 6:], [-1], axis=1)
            # The pose is free in each picture: it is taken out of the equations for the likeness.
            solved = np.linalg.solve(pp + 1e-9 * np.eye(6), np.column_stack([pm, bp]))
            a += mm - pm.T @ solved[:, :-1]
            b += bm[:, 0] - pm.T @ solved[:, -1]
        amount = np.clip(amount + np.linalg.solve(a, b), -2.0, 2.0)
    return amount, poses, trust


def _left_over(places: Places, camera: Camera, pixels: Array, pose: Pose, points: Array, trust: Array) -> Array:
    at = places.on(points)
    looked = pose.see(at)
    gap = (pixels - camera.project(looked)) * (-looked[:, 2:]) / camera.focal
    aside = np.stack([gap[:, 0], -gap[:, 1], np.zeros(len(gap))], axis=1) @ pose.matrix()
    reach = ((points[:, None, :2] - at[None, :, :2]) ** 2).sum(axis=-1)
    kernel = np.exp(-reach / (2 * 0.008**2)) * trust
    return 0.8 * (kernel @ aside) / (kernel.sum(axis=1, keepdims=True) + 1.0)
