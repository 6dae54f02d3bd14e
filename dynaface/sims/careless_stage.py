"""Markers that a hurried hand put on a head that is no one's else: millimetres beside their places, with others on neck, collar and shoulders."""

from dataclasses import replace

import numpy as np

from dynaface.core.curves.channels import Channels
from dynaface.core.markers.chart import MARKS
from dynaface.core.markers.take import Array, MarkerTake
from dynaface.core.shapes.standard import SHAPES
from dynaface.formats.head_file import general_head, landmark_places
from dynaface.sims.footage.performer import make_performer
from dynaface.sims.optical_stage import ORIGIN, RATE, Stage, capture, usual_places

FRAMES = 6
# From between the eyes, metres: the least and the most of each axis.
NECK = ((-0.06, -0.19, -0.10), (0.06, -0.13, -0.02))
COLLAR = ((-0.12, -0.28, -0.10), (0.12, -0.19, 0.02))
SHOULDER = ((0.12, -0.28, -0.12), (0.20, -0.20, -0.02))


def careless_take(seed: int, useless: int, places: tuple[str, ...] = usual_places(), by: float = 0.002) -> MarkerTake:
    """A neutral face of FRAMES frames; a marker is called as the place that it is meant for, a useless one "useless N", all in any order. The
    head is wider, longer and deeper than that of the performer of this seed, and bent in waves; the stage stands in any way.
    by: metres, one standard deviation, by which a marker misses its place.
    """
    rng = np.random.default_rng([seed, useless])
    still = Channels(SHAPES, np.zeros((FRAMES, len(SHAPES)), np.float32), RATE)
    at = {place: MARKS[place] for place in places}
    take = capture(make_performer(general_head(), seed), landmark_places(), at, still, Stage(0.0003), seed)
    face = take.points - ORIGIN + rng.normal(0, by, (1, len(places), 3))
    face = face * (1 + rng.normal(0, 0.06, 3))
    face += 0.004 * np.sin(face[..., [1, 2, 0]] * rng.uniform(20, 40, 3) + rng.uniform(0, 6, 3))
    beside = np.broadcast_to(_beside(rng, useless), (FRAMES, useless, 3))
    turn, _ = np.linalg.qr(rng.normal(size=(3, 3)))
    turn *= np.sign(np.linalg.det(turn))
    order = rng.permutation(len(places) + useless)
    labels = [*places, *(f"useless {n}" for n in range(useless))]
    points = np.concatenate([face, beside], axis=1) @ turn.T + ORIGIN
    return replace(take, labels=tuple(labels[n] for n in order), points=points[:, order])


def _beside(rng: np.random.Generator, count: int) -> Array:
    """(count, 3) where neck, collar and shoulders are."""
    out = np.empty((count, 3))
    for row in out:
        low, high = (NECK, COLLAR, SHOULDER)[int(rng.integers(3))]
        row[:] = rng.uniform(low, high)
        if low is SHOULDER[0]:
            row[0] *= rng.choice([-1, 1])
    return out
