"""Measured footage with the animator's tacks as further equations."""

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from dynaface.core.errors import InputError
from dynaface.core.shapes.standard import SHAPES
from dynaface.core.solve.card import PerformerCard
from dynaface.core.solve.features import landmark_features
from dynaface.core.solve.measured import Measured
from dynaface.core.solve.tacks import Tack
from dynaface.core.track.head import Array
from dynaface.core.track.landmarks import POINTS

WEIGHT_PULL, POINT_PULL = 300.0, 30.0  # times what the footage itself says


def tacked(
    card: PerformerCard, measured: Measured, weights: Array, tacks: Sequence[Tack], first: int = 0
) -> tuple[NDArray[np.float32], Array]:
    """(a, b) of the measured frames with the tacks; weights: (frames, shapes) of the solve without them; first: by how much more
    messages count than the tacks do.

    What a tack corrects at its frame is asked for nearby as well, less and less. Raises InputError for a point where
    no face was seen.
    """
    a, b = measured.a.copy(), measured.b.copy()
    for tack in tacks:
        rows, wrong = _asked(card, measured, weights, tack, first)
        diagonal = np.diagonal(measured.a[tack.frame])
        moves = (rows**2).sum(axis=0)
        felt = moves > 0.05 * moves.max()
        pull = (WEIGHT_PULL if tack.shape else POINT_PULL) * float(np.median((diagonal[felt] + 1e4) / moves[felt]))
        first, last = max(0, tack.frame - tack.span), min(measured.frames - 1, tack.frame + tack.span)
        for frame in range(first, last + 1):
            fade = 0.5 + 0.5 * float(np.cos(np.pi * (frame - tack.frame) / (tack.span + 1)))
            own = fade * pull
            a[frame] += own * (rows.T @ rows)
            b[frame] += own * (rows.T @ (rows @ weights[frame] + fade * wrong))
    return a, b


def _asked(card: PerformerCard, measured: Measured, weights: Array, tack: Tack, begins: int) -> tuple[Array, Array]:
    """(rows (k, shapes), (k,) by how much what they say of the weights must change at the tack's frame)."""
    if tack.shape:
        row = np.array([[float(s == tack.shape) for s in SHAPES]])
        return row, tack.value - row @ weights[tack.frame]
    pose = measured.pose(tack.frame)
    if pose is None:
        raise InputError(f"a point is tacked at frame {begins + tack.frame}, but no face is seen there",
                         hint="Take the tack off, or set weights there instead")  # fmt: skip
    model = card.features
    points = np.tile(np.array(tack.place), (POINTS, 1))
    seen = landmark_features(card.camera, points, np.zeros(len(SHAPES)), pose, model.places)
    two = slice(2 * tack.point, 2 * tack.point + 2)
    rows = model.basis[two] * card.solved
    if not rows.any():
        raise InputError(f"nothing that may be solved moves point {tack.point}", hint="Take that tack off")
    return rows, seen[two] - model.rest[two] - rows @ weights[tack.frame]
