"""Teeth and tongue of a figure: they go with the jaw as one, and lie so that nothing of them comes through the skin."""

from dataclasses import dataclass
from typing import Any

import numpy as np

from dynaface.core.markers.rigid import fit_rigid

UPPER, LOWER, TONGUE = "helper-upper-teeth", "helper-lower-teeth", "helper-tongue"
LOW = 0.72  # of the height of the lower teeth
FLAT, SHORT = (
    0.50,
    0.80,
)  # of the tongue's height and length: at rest it lies behind the lower teeth and under the upper ones
MOVES = 1e-4  # metres from which on a shape moves the jaw
TIP = 0.034  # metres by which a tongue that is put out goes ahead


@dataclass
class Mouth:
    """points (vertices, 3) of the whole figure with teeth and tongue in their places, and the shapes that move them."""

    points: np.ndarray
    shapes: dict[str, dict[str, np.ndarray]]  # group -> shape -> (vertices, 3)


def vertices(figure: Any, group: str) -> np.ndarray:
    """Numbers of a group's vertices."""
    return np.unique(figure.base.faces[group][0])


def lay(figure: Any, size: float = 1.0, back: float = 0.004, tongue_out: str = "tongueOut") -> Mouth:
    """Teeth and tongue of a figure. size: of all of it about the middle of the arch; back: metres behind where the base has them."""
    points = figure.points.copy()
    upper, lower, tongue = (vertices(figure, g) for g in (UPPER, LOWER, TONGUE))
    arch = np.concatenate([upper, lower])
    middle = figure.points[arch].mean(axis=0)
    points[np.concatenate([arch, tongue])] = middle + (points[np.concatenate([arch, tongue])] - middle) * size
    points[upper] -= [0, 0.0022 * size, 0.5 * back]
    points[lower] -= [0, 0.002 * size, back + 0.0015 * size]
    # Lower teeth stand less high than the base has them, so that their sides do not fill an open mouth.
    foot = points[lower, 1].min()
    points[lower, 1] = foot + (points[lower, 1] - foot) * LOW
    at = points[tongue]
    low, root = at.min(axis=0), at[:, 2].min()
    at[:, 1] = low[1] + (at[:, 1] - low[1]) * FLAT
    at[:, 2] = root + (at[:, 2] - root) * SHORT - back
    # Its edges never reach into the arch.
    at[:, 0] *= 0.92
    points[tongue] = at
    shapes: dict[str, dict[str, np.ndarray]] = {UPPER: {}, LOWER: {}, TONGUE: {}}
    for name, moved in figure.shapes.items():
        if np.abs(moved[lower]).max() < MOVES:
            continue
        turn, shift, _ = fit_rigid(figure.points[lower], figure.points[lower] + moved[lower], np.ones(len(lower)))
        for group, used in ((LOWER, lower), (TONGUE, tongue)):
            offset = np.zeros_like(points)
            offset[used] = points[used] @ turn.T + shift - points[used]
            shapes[group][name] = offset
    if tongue_out in figure.shapes:
        along = (at[:, 2] - root) / np.ptp(at[:, 2])
        share = along * along * (3 - 2 * along)
        offset = np.zeros_like(points)
        offset[tongue] = share[:, None] * np.array([0.0, 0.002, TIP * size]) + (share**4)[:, None] * np.array(
            [0, -0.006 * size, 0]
        )
        shapes[TONGUE][tongue_out] = offset
    return Mouth(points, shapes)
