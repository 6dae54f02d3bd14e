"""How wide a lens is, from how the skin of a still face moves over the picture as the head turns.

Self-calibration by bundle adjustment: the lens, the head's pose in each picture and where each point of the skin lies are found together,
the points being held near the general head made alike. What a part of the face moves more than another as it comes nearer to the camera
says how near the camera is.
"""

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from dynaface.core.errors import InputError
from dynaface.core.track.camera import Pose, camera_of, moved, pose_slopes
from dynaface.core.track.head import Array

ROUNDS = 10
POINTS = 300  # of the skin that are used
NOISE, OUTLIER = 0.5, 2.0  # pixels of a tracked point, and times that from which on it counts less
BENT = 0.005  # metres by which the head may differ from the general one made alike
UNLIKE, ALIKE = 0.45, 0.6  # likeness of a point that says nothing, and on average of one that is used
SYSTEMATIC = 0.08  # share by which the lens is off for all that: skin does not look the same from the side
USUAL = 0.5  # by how much lenses differ from the one that was assumed, in logarithms
UNKNOWN = 0.1  # doubt of the same kind, above which the pictures say too little
STEP = 0.3  # of the logarithm, at most, a round


@dataclass(frozen=True)
class Lens:
    """Vertical field of view in degrees: the best, and between which others fit nearly as well."""

    fov: float
    low: float
    high: float


@dataclass(frozen=True)
class Track:
    """Where the skin was found in one picture: pixels (n, 2), likeness (n,) 0..1, and the head's pose as it was taken to be."""

    pixels: Array
    likeness: Array
    pose: Pose


def lens_of_tracks(size: tuple[int, int], fov: float, rest: Array, tracks: Sequence[Track]) -> Lens:
    """The lens of pictures of size (width, height) in which points of a still face (n, 3), metres, were tracked under an assumed fov.

    Raises InputError where the head turns too little to say.
    """
    seen = np.flatnonzero(np.mean([t.likeness for t in tracks], axis=0) > ALIKE)
    if len(seen) > POINTS:
        seen = seen[np.linspace(0, len(seen) - 1, POINTS).astype(int)]
    if len(seen) < 12 or len(tracks) < 3:
        raise InputError("too little of the face is seen to measure the lens", hint="Type the lens's angle in")
    assumed = camera_of(*size, fov)
    start, focal = float(np.log(assumed.focal)), float(np.log(assumed.focal))
    poses = [t.pose for t in tracks]
    points, held = rest[seen].copy(), rest[seen]
    for _ in range(ROUNDS):
        camera = replace(assumed, focal=float(np.exp(focal)))
        sums = _Sums(len(tracks), held, points, start, focal)
        for number, (track, pose) in enumerate(zip(tracks, poses, strict=True)):
            looked, slopes, by_pose = pose_slopes(camera, pose, points)
            left = track.pixels[seen] - camera.project(looked)
            alike = np.clip((track.likeness[seen] - UNLIKE) / (1 - UNLIKE), 0, 1)
            belief = alike / NOISE**2 / (1 + (left**2).sum(axis=1) / (NOISE * OUTLIER) ** 2) ** 2
            # A longer lens moves all points away from the middle.
            by_lens = (camera.project(looked) - np.array(camera.centre))[:, :, None]
            sums.add(number, np.concatenate([by_pose, by_lens], axis=2), slopes @ pose.matrix(), left, belief)
        steps, shifts, doubt = sums.solved()
        points = points + shifts
        poses = [moved(p, np.clip(s, -0.2, 0.2)) for p, s in zip(poses, steps[:-1].reshape(-1, 6), strict=True)]
        focal += float(np.clip(steps[-1], -STEP, STEP))
    if doubt > UNKNOWN:
        raise InputError("the head turns too little to measure the lens", hint="Choose a clip in which it turns, or type the lens's angle in")  # fmt: skip
    reach = float(np.hypot(2 * doubt, SYSTEMATIC))
    return Lens(*(_degrees(size[1], focal + by) for by in (0.0, reach, -reach)))


def _degrees(height: int, focal: float) -> float:
    """The vertical field of view of a logarithm of the focal length in pixels."""
    return float(2 * np.degrees(np.arctan(height / 2 / np.exp(focal))))


class _Sums:
    """Normal equations of the poses and the lens, in which the points' own unknowns are eliminated (Schur complement)."""

    def __init__(self, pictures: int, held: Array, points: Array, start: float, focal: float) -> None:
        size = 6 * pictures + 1
        self.a, self.b = np.zeros((size, size)), np.zeros(size)
        self.a[-1, -1], self.b[-1] = USUAL**-2, (start - focal) * USUAL**-2
        self.own = np.tile(np.eye(3) / BENT**2, (len(points), 1, 1))
        self.pull = (held - points) / BENT**2
        self.between = np.zeros((len(points), 3, size))

    def add(self, picture: int, by_view: Array, by_point: Array, left: Array, belief: Array) -> None:
        """Points' slopes (n, 2, 7) by pose and lens and (n, 2, 3) by their own place, what is left (n, 2) pixels, belief (n,)."""
        columns = np.r_[6 * picture : 6 * picture + 6, len(self.b) - 1]
        weighed, own = by_view * belief[:, None, None], by_point * belief[:, None, None]
        self.a[np.ix_(columns, columns)] += np.einsum("nki,nkj->ij", by_view, weighed)
        self.b[columns] += np.einsum("nki,nk->i", weighed, left)
        self.own += np.einsum("nki,nkj->nij", by_point, own)
        self.pull += np.einsum("nki,nk->ni", own, left)
        self.between[:, :, columns] += np.einsum("nki,nkj->nij", by_point, weighed)

    def solved(self) -> tuple[Array, Array, float]:
        """(steps of poses and lens, shifts (n, 3) of the points, how doubtful the lens is, in its logarithm)."""
        inverse = np.linalg.inv(self.own)
        carried = inverse @ self.between
        size = len(self.b)
        flat = self.between.reshape(-1, size)
        whole = self.a - flat.T @ carried.reshape(-1, size) + 1e-6 * np.eye(size)
        answers = np.linalg.solve(
            whole, np.column_stack([self.b - np.einsum("nki,nk->i", carried, self.pull), np.eye(size)[-1]])
        )
        steps = answers[:, 0]
        shifts = np.einsum("nij,nj->ni", inverse, self.pull) - carried @ steps
        return steps, shifts, float(np.sqrt(answers[-1, 1]))


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
