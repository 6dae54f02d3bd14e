"""Dots as one camera sees them: the general head laid behind them, the camera's wobble taken out, weights from what is left."""

from collections.abc import Mapping
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from dynaface.core.errors import InputError
from dynaface.core.markers.basis import MarkerBasis, sampled_basis
from dynaface.core.markers.chart import Chart
from dynaface.core.markers.layout import likened
from dynaface.core.track.camera import Camera, Pose, moved, pose_slopes
from dynaface.core.track.likeness import fit_pose

Array = NDArray[np.float64]
ROUNDS = 8
# How far an arm lets the camera wobble: turn in radians, place in metres. It keeps few fixed dots from making a turn of noise.
WOBBLE = np.array([0.02, 0.02, 0.02, 0.003, 0.003, 0.003])
PIXEL = 0.3  # noise of a dot's centre
UNLIKE = 8e-4  # metres by which what one camera sees of the shapes is off, samples or not
FEWEST_FIXED, FEWEST = 2, 6


@dataclass(frozen=True)
class FlatHead:
    """The performer's dots before the camera. basis: what each shape does, (52, dots, 2) metres aside and up as the camera sees
    them; points: (dots, 3) on the head; depth: (52, dots) metres toward the camera; pose: of the neutral head; pixels: (dots, 2) where
    they are then; fixed: (dots,).
    """

    basis: MarkerBasis
    points: Array
    depth: Array
    pose: Pose
    pixels: Array
    fixed: NDArray[np.bool_]
    camera: Camera

    @property
    def metres(self) -> Array:
        """(dots, 2) metres aside and up that a pixel to the right and down is at each dot."""
        away = -self.pose.see(self.points)[:, 2]
        return np.asarray((away / self.camera.focal)[:, None] * np.array([1.0, -1.0]))


def lay_head(
    labels: tuple[str, ...], places: Mapping[str, str], pixels: Array, chart: Chart, camera: Camera
) -> FlatHead:
    """The general head behind the dots of a neutral picture; pixels: (dots, 2), NaN for one that is not seen. Depth comes from the
    general head, made like the performer as far as the dots tell. Raises InputError where too few are seen.
    """
    used = [i for i, label in enumerate(labels) if label in places and np.isfinite(pixels[i, 0])]
    at = np.array([chart.names.index(places[labels[i]]) for i in used], dtype=int)
    fixed = chart.fixed[at] if len(at) else np.zeros(0, bool)
    if len(used) < FEWEST:
        raise InputError(
            f"only {len(used)} dots sit on places and are seen in the neutral frames",
            hint=f"At least {FEWEST} are needed",
        )
    if fixed.sum() < FEWEST_FIXED:
        raise InputError(f"only {int(fixed.sum())} dots sit on places that expressions do not move",
                         hint=f"{FEWEST_FIXED} are needed, such as the bridge of the nose and the hairline")  # fmt: skip
    seen, target, pose = pixels[used], chart.points, None
    trust = np.where(fixed, 2.0, 1.0)
    for _ in range(ROUNDS):
        pose = fit_pose(camera, target[at], seen, pose, trust, 30)
        points = pose.unsee(camera.placed(seen, -pose.see(target[at])[:, 2]))
        target = likened(chart, at, points)
    assert pose is not None
    looked = pose.see(points)
    metres = (-looked[:, 2] / camera.focal)[:, None, None]
    slopes = camera.slopes(looked) * metres * np.array([1.0, -1.0])[None, :, None]
    turned = np.einsum("ij,snj->sni", pose.matrix(), chart.shapes[:, at])
    shapes = np.einsum("nij,snj->sni", slopes, turned)
    basis = MarkerBasis(tuple(labels[i] for i in used), points, shapes, (np.eye(3), np.zeros(3)))
    return FlatHead(basis, points, turned[..., 2], pose, seen, fixed, camera)


def displacements(head: FlatHead, pixels: Array) -> Array:
    """(frames, dots, 2) metres aside and up by which dots at pixels (frames, dots, 2) went from neutral, the camera's wobble and its
    head taken out by the fixed dots.
    """
    out = np.full(pixels.shape, np.nan)
    metres = head.metres
    rest = head.camera.project(head.pose.see(head.points))
    pose = head.pose
    for frame, now in enumerate(pixels):
        seen = head.fixed & np.isfinite(now[:, 0])
        if seen.any():
            pose = _wobbled(head, now, seen)
        away = now - head.camera.project(pose.see(head.points)) - (head.pixels - rest)
        out[frame] = away * metres
    return out


def _wobbled(head: FlatHead, pixels: Array, seen: NDArray[np.bool_]) -> Pose:
    """The head's pose in a frame, from the fixed dots and how far an arm wobbles."""
    pose, total = head.pose, np.zeros(6)
    gap = head.pixels - head.camera.project(head.pose.see(head.points))
    held = np.diag((PIXEL / WOBBLE) ** 2)
    for _ in range(2):
        looked, _, slopes = pose_slopes(head.camera, pose, head.points[seen])
        left = pixels[seen] - gap[seen] - head.camera.project(looked)
        robust = 1 / (1 + (left**2).sum(axis=1) / 16.0) ** 2
        a = np.einsum("nij,n,nik->jk", slopes, robust, slopes) + held
        step = np.linalg.solve(a, np.einsum("nij,n,ni->j", slopes, robust, left) - held @ total)
        total, pose = total + step, moved(pose, step)
    return pose


def learn_samples(head: FlatHead, went: Mapping[str, Array]) -> FlatHead:
    """The head with shapes put right by samples: shape -> (dots, 2) displacement at its extreme."""
    return replace(head, basis=sampled_basis(head.basis, went))
