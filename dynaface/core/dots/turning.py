"""Dots on a head that moves before a camera: its pose and its weights are found in turns, each with what the other says."""

import numpy as np

from dynaface.core.dots.flat import UNLIKE, Array, FlatHead
from dynaface.core.errors import InputError
from dynaface.core.markers.solve import solve_displacements
from dynaface.core.shapes.standard import SHAPES
from dynaface.core.solve.measured import row_of
from dynaface.core.track.camera import Pose, on_head
from dynaface.core.track.likeness import fit_pose

ROUNDS = 5
FREE = 0.3  # how far a dot that expressions move is believed of the pose, beside one that they do not
FEWEST = 4  # dots that a pose takes


def solid_shapes(head: FlatHead) -> Array:
    """(52, dots, 3) metres in the head's own frame of what each shape does: aside and up as the samples say, toward the camera as
    the general head says.
    """
    looked = head.pose.see(head.points)
    slant = looked[:, :2] / -looked[:, 2:]
    aside_and_up = head.basis.shapes - slant * head.depth[..., None]
    seen = np.concatenate([aside_and_up, head.depth[..., None]], axis=2)
    return np.asarray(seen @ head.pose.matrix())


def posed(head: FlatHead, weights: Array) -> Array:
    """(frames, dots, 3) in the head's own frame where weights (frames, 52) put the dots."""
    return np.asarray(head.points + np.einsum("fi,imk->fmk", weights, solid_shapes(head)))


def solve_turning(head: FlatHead, pixels: Array, rate: float) -> tuple[Array, Array, Array]:
    """((frames, 52) weights, (frames, dots) residual in metres, (frames, 7) poses) of dots at pixels (frames, dots, 2), NaN where
    one is not seen; a frame with too few of them has no pose and is bridged.
    """
    frames, solid = len(pixels), solid_shapes(head)
    seen = np.isfinite(pixels[..., 0])
    known = np.flatnonzero(seen.sum(axis=1) >= FEWEST)
    if not len(known):
        raise InputError(f"no frame shows {FEWEST} dots, so the head cannot be taken out")
    trust = np.where(head.fixed, 1.0, FREE)
    weights, poses = np.zeros((frames, len(SHAPES))), np.full((frames, 7), np.nan)
    moved = np.full(pixels.shape, np.nan)
    shapes = np.zeros((frames, len(SHAPES), len(head.points), 2))
    last = head.pose
    for number in range(ROUNDS):
        points = posed(head, weights)
        for frame in known:
            on = seen[frame]
            begun = Pose(poses[frame, :4], poses[frame, 4:]) if number else last
            last = fit_pose(head.camera, points[frame, on], pixels[frame, on], begun, trust[on])
            poses[frame] = row_of(last)
            looked = last.see(points[frame])
            metres = (-looked[:, 2] / head.camera.focal)[:, None] * np.array([1.0, -1.0])
            slopes = head.camera.slopes(looked) * metres[..., None] @ last.matrix()
            shapes[frame] = np.einsum("mij,smj->smi", slopes, solid)
            away = (pixels[frame] - head.camera.project(looked)) * metres
            moved[frame] = away + np.tensordot(weights[frame], shapes[frame], axes=1)
        weights, residual = solve_displacements(moved, shapes, rate, (head.basis.own > 0).astype(np.float64), UNLIKE)
    return weights, residual, poses


def turned_back(head: FlatHead, pixels: Array, rate: float) -> Array:
    """(frames, dots, 2) metres aside and up by which dots went from neutral, as a camera would see it that turned with the head."""
    weights, _, poses = solve_turning(head, pixels, rate)
    looked = head.pose.see(on_head(head.camera, poses, pixels, posed(head, weights)))
    return np.asarray((head.camera.project(looked) - head.pixels) * head.metres)
