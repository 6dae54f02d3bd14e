"""How wide a lens is, from how a face's perspective changes as the head turns."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from dynaface.core.track.camera import camera_of
from dynaface.core.track.head import Array, Head
from dynaface.core.track.likeness import STIFF, Places, fit_modes, fit_pose

TRIED = (22.0, 30.0, 38.0, 46.0, 56.0)  # degrees
NEAR = 1.01  # a cost up to this times the best fits nearly as well
ROUNDS = 6


@dataclass(frozen=True)
class Lens:
    """Vertical field of view in degrees: the best, and between which others fit nearly as well."""

    fov: float
    low: float
    high: float


def estimate_lens(head: Head, places: Places, size: tuple[int, int], seen: Sequence[Array]) -> Lens:
    """The lens under which the general head, made alike, fits landmarks (468, 2) of several pictures best.

    A parabola over the logarithm of the angle through the best of TRIED and its neighbours.
    """
    costs = np.array([_cost(head, places, size, fov, seen) for fov in TRIED])
    at = int(np.clip(np.argmin(costs), 1, len(TRIED) - 2))
    x = np.log(TRIED)
    a, b, c = np.polyfit(x[at - 1 : at + 2], costs[at - 1 : at + 2], 2)
    if a <= 0:
        best = float(x[np.argmin(costs)])
        return Lens(float(np.exp(best)), TRIED[0], TRIED[-1])
    best = float(np.clip(-b / (2 * a), x[0], x[-1]))
    least = c - b * b / (4 * a)
    reach = float(np.sqrt(max(least, 0.0) * (NEAR - 1) / a))
    return Lens(*(float(np.exp(np.clip(v, np.log(12), np.log(90)))) for v in (best, best - reach, best + reach)))


def _cost(head: Head, places: Places, size: tuple[int, int], fov: float, seen: Sequence[Array]) -> float:
    camera = camera_of(*size, fov)
    amount, poses, trust = fit_modes(head, places, camera, seen, ROUNDS)
    points = places.on(head.points + np.tensordot(amount, head.modes, axes=1))
    total = STIFF * len(seen) * float(amount @ amount)
    for pixels, pose in zip(seen, poses, strict=True):
        fitted = fit_pose(camera, points, pixels, pose, trust, 3)
        left = ((pixels - camera.project(fitted.see(points))) ** 2).sum(axis=1)
        total += float((trust * left / (1 + left / 64.0)).sum())
    return total


def from_several_sides(points: Array, count: int = 8) -> list[int]:
    """Numbers of up to `count` pictures, of (frames, 468, 2) landmarks, in which the head is turned most differently."""
    size = np.linalg.norm(points[:, 10] - points[:, 152], axis=1)
    middle = (points[:, 234] + points[:, 454]) / 2
    sides = (points[:, 1] - middle) / np.maximum(size[:, None], 1)  # where the nose is on the face
    chosen = [int(np.argmin(np.linalg.norm(sides - np.median(sides, axis=0), axis=1)))]
    while len(chosen) < min(count, len(points)):
        away = np.min(np.linalg.norm(sides[:, None] - sides[chosen][None], axis=2), axis=1)
        chosen.append(int(np.argmax(away)))
    return chosen
