"""Unit quaternions as arrays (..., 4) in the order x, y, z, w (as in glTF). Products act right to left."""

import math

import numpy as np
from numba import njit
from numpy.typing import NDArray

Array = NDArray[np.float64]
IDENTITY = np.array([0.0, 0.0, 0.0, 1.0])


@njit(cache=True)
def _multiply(a, b, out):  # type: ignore[no-untyped-def]
    for i in range(out.shape[0]):
        ax, ay, az, aw = a[i, 0], a[i, 1], a[i, 2], a[i, 3]
        bx, by, bz, bw = b[i, 0], b[i, 1], b[i, 2], b[i, 3]
        out[i, 0] = aw * bx + ax * bw + ay * bz - az * by
        out[i, 1] = aw * by - ax * bz + ay * bw + az * bx
        out[i, 2] = aw * bz + ax * by - ay * bx + az * bw
        out[i, 3] = aw * bw - ax * bx - ay * by - az * bz


def _flat(*arrays: Array) -> tuple[tuple[int, ...], list[Array]]:
    """The shape that the arrays broadcast to, and each as (n, 4) rows of it."""
    shape = np.broadcast_shapes(*(a.shape for a in arrays))
    return shape, [np.ascontiguousarray(np.broadcast_to(a, shape), np.float64).reshape(-1, 4) for a in arrays]


def multiply(a: Array, b: Array) -> Array:
    """The rotation b followed by a; shapes broadcast."""
    shape, (one, two) = _flat(a, b)
    out = np.empty_like(one)
    _multiply(one, two, out)
    return out.reshape(shape)


def inverse(q: Array) -> Array:
    """The opposite rotation of unit quaternions (..., 4) -> (..., 4)."""
    return q * np.array([-1.0, -1.0, -1.0, 1.0])


def normalised(q: Array) -> Array:
    """Quaternions (..., 4) scaled to unit length; a zero quaternion becomes no rotation."""
    length = np.linalg.norm(q, axis=-1, keepdims=True)
    return np.where(length > 1e-12, q / np.maximum(length, 1e-12), IDENTITY)


def about(axis: str, degrees: Array | float) -> Array:
    """A turn about x, y or z by degrees (...,) -> (..., 4)."""
    half = np.radians(np.asarray(degrees, np.float64)) / 2
    q = np.zeros((*half.shape, 4))
    q[..., "xyz".index(axis.lower())] = np.sin(half)
    q[..., 3] = np.cos(half)
    return q


@njit(cache=True)
def _rotate(q, v, out):  # type: ignore[no-untyped-def]
    for i in range(out.shape[0]):
        x, y, z, w = q[i, 0], q[i, 1], q[i, 2], q[i, 3]
        tx = 2.0 * (y * v[i, 2] - z * v[i, 1])
        ty = 2.0 * (z * v[i, 0] - x * v[i, 2])
        tz = 2.0 * (x * v[i, 1] - y * v[i, 0])
        out[i, 0] = v[i, 0] + w * tx + y * tz - z * ty
        out[i, 1] = v[i, 1] + w * ty + z * tx - x * tz
        out[i, 2] = v[i, 2] + w * tz + x * ty - y * tx


def rotate(q: Array, vector: Array) -> Array:
    """Vectors (..., 3) turned by q (..., 4)."""
    shape = np.broadcast_shapes(q.shape[:-1], vector.shape[:-1])
    turns = np.ascontiguousarray(np.broadcast_to(q, (*shape, 4)), np.float64).reshape(-1, 4)
    given = np.ascontiguousarray(np.broadcast_to(vector, (*shape, 3)), np.float64).reshape(-1, 3)
    out = np.empty_like(given)
    _rotate(turns, given, out)
    return out.reshape(*shape, 3)


def between(a: Array, b: Array) -> Array:
    """The shortest rotations (..., 4) that take directions a (..., 3) to directions b (..., 3); shapes broadcast."""
    a, b = np.broadcast_arrays(a, b)
    a, b = (v / np.maximum(np.linalg.norm(v, axis=-1, keepdims=True), 1e-12) for v in (a, b))
    dot = (a * b).sum(axis=-1, keepdims=True)
    # Half a circle has no shortest way: any axis across will do.
    across = np.cross(a, np.where(np.abs(a[..., :1]) < 0.9, [1.0, 0.0, 0.0], [0.0, 1.0, 0.0]))
    opposite = np.concatenate([across, np.zeros_like(dot)], axis=-1)
    shortest = np.concatenate([np.cross(a, b), 1.0 + dot], axis=-1)
    return normalised(np.where(dot < -1 + 1e-9, opposite, shortest))


def about_vector(vectors: Array) -> Array:
    """Turns (..., 4) about vectors (..., 3) by their length in radians."""
    half = np.linalg.norm(vectors, axis=-1, keepdims=True) / 2
    return np.concatenate([vectors * np.sinc(half / np.pi) / 2, np.cos(half)], axis=-1)


@njit(cache=True)
def _slerp(a, b, weight, out):  # type: ignore[no-untyped-def]
    for i in range(out.shape[0]):
        dot = a[i, 0] * b[i, 0] + a[i, 1] * b[i, 1] + a[i, 2] * b[i, 2] + a[i, 3] * b[i, 3]
        angle = math.acos(min(abs(dot), 1.0))
        sine = math.sin(angle)
        w = weight[i]
        if sine < 1e-6:
            from_a, from_b = 1.0 - w, w
        else:
            from_a, from_b = math.sin((1.0 - w) * angle) / sine, math.sin(w * angle) / sine
        if dot < 0.0:
            from_b = -from_b
        length = 0.0
        for k in range(4):
            out[i, k] = from_a * a[i, k] + from_b * b[i, k]
            length += out[i, k] ** 2
        length = math.sqrt(length)
        for k in range(4):
            out[i, k] = out[i, k] / length if length > 1e-12 else (1.0 if k == 3 else 0.0)


def slerp(a: Array, b: Array, weight: Array | float) -> Array:
    """From a (weight 0) to b (weight 1) the short way; shapes broadcast, weight without the last axis."""
    w = np.asarray(weight, np.float64)
    shape, (one, two, weights) = _flat(a, b, np.broadcast_to(w[..., None], (*w.shape, 4)))
    out = np.empty_like(one)
    _slerp(one, two, np.ascontiguousarray(weights[:, 0]), out)
    return out.reshape(shape)


def headings(turns: Array) -> Array:
    """(...,) radians about up, -pi..pi, by which turns (..., 4) take what looks along +z."""
    way = rotate(turns, np.broadcast_to([0.0, 0.0, 1.0], (*turns.shape[:-1], 3)))
    return np.arctan2(way[..., 0], way[..., 2])


def continuous(q: Array) -> Array:
    """(frames, ..., 4) with signs chosen so that neighbours in time lie on the same side."""
    if len(q) < 2:
        return q
    flip = np.sum(q[1:] * q[:-1], axis=-1) < 0
    signs = np.where(np.cumsum(flip, axis=0) % 2 == 1, -1.0, 1.0)
    return np.concatenate([q[:1], q[1:] * signs[..., None]])


def head_rotation(turn: Array, nod: Array, tilt: Array) -> Array:
    """Head angles in degrees (frames,) -> (frames, 4) for a face that looks along +z with +y up.

    Turn is positive to the performer's left (+x), nod positive up, tilt positive toward the left shoulder.
    """
    return multiply(multiply(about("y", turn), about("x", -np.asarray(nod))), about("z", -np.asarray(tilt)))


def head_angles(q: Array) -> tuple[Array, Array, Array]:
    """(turn, nod, tilt) in degrees of head rotations (..., 4): the inverse of head_rotation, nod within +-90."""
    x, y, z, w = np.moveaxis(q, -1, 0)
    forward = rotate(q, np.broadcast_to([0.0, 0.0, 1.0], (*q.shape[:-1], 3)))
    turn = np.degrees(np.arctan2(forward[..., 0], forward[..., 2]))
    nod = np.degrees(np.arcsin(np.clip(forward[..., 1], -1, 1)))
    rest = multiply(inverse(multiply(about("y", turn), about("x", -nod))), np.stack([x, y, z, w], axis=-1))
    return turn, nod, -np.degrees(2 * np.arctan2(rest[..., 2], rest[..., 3]))


def matrix_quaternions(matrices: Array) -> Array:
    """(..., 4) of rotation matrices (..., 3, 3) that turn by less than half a circle; NaN where they are."""
    m = matrices
    w = np.sqrt(np.maximum(1 + m[..., 0, 0] + m[..., 1, 1] + m[..., 2, 2], 1e-12)) / 2
    aside = [m[..., 2, 1] - m[..., 1, 2], m[..., 0, 2] - m[..., 2, 0], m[..., 1, 0] - m[..., 0, 1]]
    return np.concatenate([np.stack(aside, axis=-1) / (4 * w[..., None]), w[..., None]], axis=-1)
