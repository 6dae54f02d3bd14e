"""The head's motion from markers that expressions do not move."""

import numpy as np
from numpy.typing import NDArray

from dynaface.core.errors import InputError
from dynaface.core.markers.take import Array

FEWEST = 3
LOOSE = 0.002  # metres: a fixed marker that is farther off than this counts less


def fit_rigid(points: Array, target: Array, weights: Array, scaled: bool = False) -> tuple[Array, Array, float]:
    """(rotation (3, 3), shift (3,), scale) that take points (n, 3) to the target (n, 3) in the weighted least squares sense
    (Umeyama 1991); scale is 1 unless asked for.
    """
    share = weights / weights.sum()
    a, b = share @ points, share @ target
    p, t = points - a, target - b
    u, s, vt = np.linalg.svd((t * share[:, None]).T @ p)
    sign = np.array([1.0, 1.0, np.sign(np.linalg.det(u @ vt))])
    rotation = u @ np.diag(sign) @ vt
    scale = float((s * sign).sum() / max(float(share @ (p**2).sum(axis=1)), 1e-18)) if scaled else 1.0
    return rotation, b - scale * rotation @ a, scale


def head_motion(points: Array, neutral: Array, fixed: NDArray[np.bool_], rounds: int = 4) -> tuple[Array, Array]:
    """(rotations (frames, 3, 3), shifts (frames, 3)) that take the neutral head to each frame, from at least three fixed markers
    that are seen; robust against one that slips. points: (frames, markers, 3); neutral: (markers, 3). NaN where fewer are seen.
    Raises InputError where fewer than three are fixed.
    """
    fixed = fixed & np.isfinite(neutral[:, 0])
    if fixed.sum() < FEWEST:
        raise InputError(f"only {int(fixed.sum())} markers sit on places that expressions do not move",
                         hint="The head needs three, such as the hairline, the temples or the bridge of the nose")  # fmt: skip
    own, target = points[:, fixed], neutral[fixed]
    rotations, shifts = np.full((len(points), 3, 3), np.nan), np.full((len(points), 3), np.nan)
    seen = np.isfinite(own[..., 0])
    enough = seen.sum(axis=1) >= FEWEST
    if not enough.any():
        return rotations, shifts
    there, seen = np.nan_to_num(own[enough]), seen[enough]
    weight = seen.astype(np.float64)
    for _ in range(rounds):
        rotation, shift = _fit_each(target, there, weight)
        away = np.linalg.norm(there - np.einsum("fij,mj->fmi", rotation, target) - shift[:, None], axis=2)
        weight = seen / (1 + (away / LOOSE) ** 2) ** 2
    rotations[enough], shifts[enough] = rotation, shift
    return rotations, shifts


def _fit_each(points: Array, targets: Array, weights: Array) -> tuple[Array, Array]:
    """As fit_rigid, of points (n, 3) to each frame's targets (frames, n, 3) with weights (frames, n)."""
    share = weights / weights.sum(axis=1, keepdims=True)
    a, b = share @ points, np.einsum("fn,fnk->fk", share, targets)
    t = (targets - b[:, None]) * share[..., None]
    u, _, vt = np.linalg.svd(np.einsum("fni,fnj->fij", t, points[None] - a[:, None]))
    u[..., 2] *= np.sign(np.linalg.det(u @ vt))[:, None]
    rotation = u @ vt
    return rotation, b - np.einsum("fij,fj->fi", rotation, a)


def without_head(points: Array, rotations: Array, shifts: Array) -> Array:
    """(frames, markers, 3) carried back to the neutral head's place."""
    return np.einsum("fij,fmi->fmj", rotations, points - shifts[:, None])
