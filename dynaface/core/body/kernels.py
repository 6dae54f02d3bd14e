"""What walks through every joint of every frame, compiled. Rotations are (frames, joints, 4) in the order x, y, z, w."""

import numpy as np
from numba import njit

from dynaface.core.body.rotations import Array


@njit(cache=True, inline="always")
def _times(a, b, out):  # type: ignore[no-untyped-def]
    ax, ay, az, aw = a[0], a[1], a[2], a[3]
    bx, by, bz, bw = b[0], b[1], b[2], b[3]
    out[0] = aw * bx + ax * bw + ay * bz - az * by
    out[1] = aw * by - ax * bz + ay * bw + az * bx
    out[2] = aw * bz + ax * by - ay * bx + az * bw
    out[3] = aw * bw - ax * bx - ay * by - az * bz


@njit(cache=True)
def posed(parents, offsets, local, root, rotations, positions):  # type: ignore[no-untyped-def]
    """Fills global rotations and positions (frames, joints, 3) of local rotations; root (frames, 3) moves joints without a parent."""
    for f in range(local.shape[0]):
        for j in range(local.shape[1]):
            p = parents[j]
            if p < 0:
                for k in range(4):
                    rotations[f, j, k] = local[f, j, k]
                for k in range(3):
                    positions[f, j, k] = offsets[j, k] + root[f, k]
                continue
            q = rotations[f, p]
            _times(q, local[f, j], rotations[f, j])
            x, y, z = offsets[j, 0], offsets[j, 1], offsets[j, 2]
            tx = 2.0 * (q[1] * z - q[2] * y)
            ty = 2.0 * (q[2] * x - q[0] * z)
            tz = 2.0 * (q[0] * y - q[1] * x)
            positions[f, j, 0] = positions[f, p, 0] + x + q[3] * tx + q[1] * tz - q[2] * ty
            positions[f, j, 1] = positions[f, p, 1] + y + q[3] * ty + q[2] * tx - q[0] * tz
            positions[f, j, 2] = positions[f, p, 2] + z + q[3] * tz + q[0] * ty - q[1] * tx


@njit(cache=True)
def to_parents(parents, rotations, local):  # type: ignore[no-untyped-def]
    """Fills local rotations of unit length of global ones."""
    above = np.empty(4)
    for f in range(rotations.shape[0]):
        for j in range(rotations.shape[1]):
            p = parents[j]
            if p < 0:
                for k in range(4):
                    local[f, j, k] = rotations[f, j, k]
            else:
                for k in range(3):
                    above[k] = -rotations[f, p, k]
                above[3] = rotations[f, p, 3]
                _times(above, rotations[f, j], local[f, j])
            length = 0.0
            for k in range(4):
                length += local[f, j, k] ** 2
            length = np.sqrt(length)
            for k in range(4):
                local[f, j, k] /= length


@njit(cache=True)
def one_side(q):  # type: ignore[no-untyped-def]
    """Chooses signs in place so that neighbours in time lie on the same side."""
    for f in range(1, q.shape[0]):
        for j in range(q.shape[1]):
            dot = 0.0
            for k in range(4):
                dot += q[f, j, k] * q[f - 1, j, k]
            if dot < 0.0:
                for k in range(4):
                    q[f, j, k] = -q[f, j, k]


@njit(cache=True)
def turned_by(q, right, out):  # type: ignore[no-untyped-def]
    """Fills q (frames, joints, 4) times one rotation (joints, 4) a joint, applied first."""
    for f in range(q.shape[0]):
        for j in range(q.shape[1]):
            _times(q[f, j], right[j], out[f, j])


def parents_of(parents: tuple[int, ...]) -> Array:
    """Indices of parents as the compiled code takes them."""
    return np.array(parents, np.int64)
