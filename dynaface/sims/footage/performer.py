"""A made-up performer: a head of their own, shapes of their own, skin of their own. A seed makes one.

Nobody moves quite like the general head: each shape is changed by smooth random fields, shifted in place, uneven left
and right; the jaw opens about a hinge; and two shapes together do not simply add.
"""

from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray
from scipy.spatial import cKDTree

from dynaface.core.shapes.standard import SHAPES
from dynaface.core.track.head import EYES, LASHES, SKIN, TONGUE, Array, Head

JAW = SHAPES.index("jawOpen")
HINGE = np.array([0.0, -0.022, -0.078])  # the jaw's axis runs left to right before the ears
# Pairs that hold each other back when both are there.
CROWDED = (("mouthSmile", "mouthPucker"), ("mouthSmile", "mouthFrown"), ("mouthFunnel", "mouthStretch"),
           ("eyeSquint", "eyeBlink"), ("browDown", "browOuterUp"), ("noseSneer", "browDown"), ("cheekSquint", "eyeBlink"),
           ("mouthUpperUp", "jawOpen"), ("mouthLowerDown", "jawOpen"))  # fmt: skip


@dataclass(frozen=True)
class Performer:
    """points: (vertices, 3) own neutral; shapes: (52, vertices, 3); crowd: (52, 52) by how much a pair weakens the
    first; jaw: (vertices,) weights and degrees of the hinge; texture: (size, size, 3) float32 linear colour 0..1.
    """

    head: Head
    points: Array
    shapes: Array
    crowd: Array
    jaw: Array
    jaw_degrees: float
    texture: np.ndarray

    def pose(self, weights: Array) -> Array:
        """(vertices, 3) of weights (52,)."""
        # What two shapes ask of the same skin is less than their sum.
        held = weights / (1.0 + self.crowd @ weights)
        jaw = held[JAW]
        moved = held.copy()
        moved[JAW] = 0.0
        out = self.points + np.tensordot(moved, self.shapes, axes=1)
        # The hinge carries what hangs on the jaw; the shape's own part that is no turn is added.
        return out + _turned(out, self.jaw, self.jaw_degrees * jaw) + jaw * self.shapes[JAW]


def _smooth_field(points: Array, rng: np.random.Generator, scale: float, size: float) -> Array:
    """(vertices, 3) smooth random values of about `size`, changing over about `scale` metres."""
    waves = rng.normal(0, 1 / scale, (10, 3))
    phase = rng.uniform(0, 2 * np.pi, 10)
    amount = rng.normal(0, 1, (10, 3)) * np.sqrt(2 / 10)
    return size * np.cos(points @ waves.T + phase) @ amount


def make_performer(head: Head, seed: int, change: float = 0.15) -> Performer:
    """The performer of a seed; `change`: how far their shapes are from the general head's, as a share."""
    rng = np.random.default_rng(seed)
    reach = np.array([0.5 if n in ("sex", "age", "origin 1", "origin 2", "weight") else 0.28 for n in head.mode_names])
    likeness = rng.normal(0, 1, len(head.modes)) * reach
    points = head.points + np.tensordot(likeness, head.modes, axes=1)
    points = points + _smooth_field(points, rng, 0.03, 0.0006)
    eyes = np.unique(head.triangles[head.part == EYES])
    tongue = np.unique(head.triangles[head.part == TONGUE])
    points[tongue] -= [0, 0.004, 0.007]
    shapes = np.empty_like(head.shapes)
    # Lips touch at rest, but are two sides of a seam: what lies near on the skin is looked for with the mouth wide open.
    soft = np.unique(head.triangles[(head.part == SKIN) | (head.part == LASHES)])
    apart = head.points + head.shapes[JAW]
    near = soft[np.linalg.norm(apart[soft], axis=1) < 0.2]
    skin = cKDTree(apart[near])
    sides = rng.normal(1, 0.6 * change, 2)
    left = np.clip(points[:, 0] / 0.02 * 0.5 + 0.5, 0, 1)[:, None]
    for number, shape in enumerate(head.shapes):
        # Shifted in place: the offset that belongs a little further along the skin.
        shift = _smooth_field(points, rng, 0.05, 0.0022 * change / 0.15)
        carried = _shifted(near, skin, shape, shift)
        gain = 1 + rng.normal(0, 0.5 * change) + _smooth_field(points, rng, 0.035, change)
        own = carried * gain * (left * sides[0] + (1 - left) * sides[1])
        own[eyes] = shape[eyes] * (1 + rng.normal(0, 0.5 * change))  # an eyeball is rigid
        shapes[number] = own
    hanging, degrees = _jaw(shapes[JAW])
    shapes[JAW] = shapes[JAW] - _turned(points, hanging, degrees)
    return Performer(head, points, shapes, _crowding(rng), hanging, degrees, _skin(head, rng))


def _shifted(near: NDArray[np.int32], skin: cKDTree, shape: Array, shift: Array) -> Array:
    """First-order transport of a field (vertices, 3) along the surface by nearest neighbours among the vertices `near`, whose places
    the tree holds; what is hard keeps its own.
    """
    if np.abs(shape[near]).max() < 1e-6:
        return shape.copy()
    distance, at = skin.query(skin.data + shift[near], k=3)
    weight = 1 / np.maximum(distance, 5e-4)
    weight /= weight.sum(axis=1, keepdims=True)
    out = shape.copy()
    out[near] = (shape[near][at] * weight[..., None]).sum(axis=1)
    return out


def _jaw(shape: Array) -> tuple[Array, float]:
    drop = np.linalg.norm(shape, axis=1)
    return np.clip(drop / np.quantile(drop[drop > 1e-4], 0.9), 0, 1), float(np.degrees(np.quantile(drop, 0.99) / 0.10))


def _turned(points: Array, hanging: Array, degrees: float) -> Array:
    """(vertices, 3) by which a turn of the jaw about its hinge moves what hangs on it."""
    angle = np.radians(degrees)
    about = points - HINGE
    y = about[:, 1] * np.cos(angle) - about[:, 2] * np.sin(angle)
    z = about[:, 1] * np.sin(angle) + about[:, 2] * np.cos(angle)
    return hanging[:, None] * (np.stack([about[:, 0], y, z], axis=1) - about)


def _crowding(rng: np.random.Generator) -> Array:
    out = np.zeros((len(SHAPES), len(SHAPES)))
    for a, b in CROWDED:
        for side in ("Left", "Right"):
            one = SHAPES.index(a + side) if a + side in SHAPES else SHAPES.index(a)
            two = SHAPES.index(b + side) if b + side in SHAPES else SHAPES.index(b)
            amount = rng.uniform(0.08, 0.3)
            out[one, two] += amount
            out[two, one] += amount * 0.5
    return out


def _skin(head: Head, rng: np.random.Generator) -> np.ndarray:
    """(size, size, 3) linear colour: tone, mottling, pores, freckles, brows, lips, hair."""
    lips, lids, inside, brows, blush, hair, sockets = head.layers.astype(np.float32) / 255
    size = lips.shape[0]
    tone = np.array([0.80, 0.60, 0.49]) * (1 - rng.uniform(0, 0.62) * np.array([0.72, 0.9, 1.0]))
    colour = np.broadcast_to(tone, (size, size, 3)).astype(np.float32).copy()

    def mottle(scale: float) -> np.ndarray:
        field = cv2.GaussianBlur(rng.normal(0, 1, (size, size)).astype(np.float32), (0, 0), scale)
        return field / field.std()

    colour *= 1 + 0.035 * mottle(14)[..., None] + 0.045 * mottle(4)[..., None] + 0.04 * mottle(1.6)[..., None]
    spots = np.clip(mottle(2.2) - rng.uniform(1.4, 2.4), 0, 1) * 0.6
    for amount, other in (
        (0.4 * blush, tone * [1.02, 0.72, 0.70]), (0.35 * sockets, tone * 0.66), (0.45 * lids, tone * 0.62),
        (spots, tone * 0.62), (0.85 * lips, tone * [0.86, 0.55, 0.56]), (0.9 * inside, np.array([0.28, 0.09, 0.09])),
        (0.95 * brows, tone * rng.uniform(0.12, 0.4)),
        (hair, rng.uniform(0.03, 0.45) * np.array([1, 0.85, 0.7]) * (1 + 0.25 * mottle(1.5)[..., None])),
    ):  # fmt: skip
        colour += (np.asarray(other, np.float32) - colour) * amount[..., None]
    return np.clip(colour, 0, 1).astype(np.float32) ** 2.2
