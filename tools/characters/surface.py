"""Surfaces: normals, subdivision into drawn vertices, sparse shapes, texture baking."""

from dataclasses import dataclass, field

import numpy as np


def triangles(quads: np.ndarray) -> np.ndarray:
    """(faces, 4) -> (triangles, 3); a repeated corner gives one triangle."""
    first, second = quads[:, [0, 1, 2]], quads[:, [0, 2, 3]]
    return np.concatenate([first, second[quads[:, 2] != quads[:, 3]]])


def normals(points: np.ndarray, quads: np.ndarray) -> np.ndarray:
    """(vertices, 3) area-weighted unit normals."""
    tris = triangles(quads)
    a, b, c = (points[tris[:, i]] for i in range(3))
    face = np.cross(b - a, c - a)
    out = np.zeros_like(points)
    for i in range(3):
        np.add.at(out, tris[:, i], face)
    return out / np.maximum(np.linalg.norm(out, axis=1, keepdims=True), 1e-12)


@dataclass
class Part:
    """What becomes one primitive: quads over the figure's vertices with uv quads, a material, colours (optional)."""

    quads: np.ndarray
    uv_quads: np.ndarray
    material: str
    uv: np.ndarray
    points: np.ndarray
    normal: np.ndarray
    colours: np.ndarray | None = None
    extra: dict = field(default_factory=dict)


@dataclass(frozen=True)
class Drawn:
    """Vertices as drawn: source (n,) vertex of the figure, uv (n, 2), triangles (t, 3)."""

    source: np.ndarray
    uv: np.ndarray
    tris: np.ndarray


def drawn(quads: np.ndarray, uv_quads: np.ndarray, uv: np.ndarray) -> Drawn:
    """Splits vertices where their uv differ."""
    pairs = np.stack([quads.ravel(), uv_quads.ravel()], axis=1)
    unique, inverse = np.unique(pairs, axis=0, return_inverse=True)
    indexed = inverse.reshape(quads.shape)
    return Drawn(unique[:, 0], uv[unique[:, 1]], triangles(indexed))


def smoothed(points: np.ndarray, quads: np.ndarray, rounds: int, keep: np.ndarray | None = None) -> np.ndarray:
    """Laplacian smoothing of the vertices that the quads use; `keep` (vertices,) True stays."""
    used = np.unique(quads)
    edges = np.concatenate([quads[:, [i, (i + 1) % 4]] for i in range(4)])
    edges = edges[edges[:, 0] != edges[:, 1]]
    out = points.copy()
    for _ in range(rounds):
        total, count = np.zeros_like(out), np.zeros(len(out))
        for a, b in ((0, 1), (1, 0)):
            np.add.at(total, edges[:, a], out[edges[:, b]])
            np.add.at(count, edges[:, a], 1)
        move = used if keep is None else used[~keep[used]]
        out[move] = total[move] / count[move, None]
    return out


def texel_positions(surface: Drawn, points: np.ndarray, size: int) -> tuple[np.ndarray, np.ndarray]:
    """(size, size, 3) position of each texel on the surface and (size, size) whether it is on it; uv 0..1, v up."""
    where = np.zeros((size, size, 3))
    on = np.zeros((size, size), bool)
    at = points[surface.source]
    for tri in surface.tris:
        uv = surface.uv[tri] * [size, -size] + [0, size]
        low = np.maximum(np.floor(uv.min(axis=0)).astype(int) - 2, 0)
        high = np.minimum(np.ceil(uv.max(axis=0)).astype(int) + 3, size)
        if (high <= low).any():
            continue
        x, y = np.meshgrid(np.arange(low[0], high[0]) + 0.5, np.arange(low[1], high[1]) + 0.5)
        (x0, y0), (x1, y1), (x2, y2) = uv
        area = (x1 - x0) * (y2 - y0) - (x2 - x0) * (y1 - y0)
        if abs(area) < 1e-12:
            continue
        b = ((x - x0) * (y2 - y0) - (x2 - x0) * (y - y0)) / area
        c = ((x1 - x0) * (y - y0) - (x - x0) * (y1 - y0)) / area
        a = 1 - b - c
        inside = (a >= -1e-6) & (b >= -1e-6) & (c >= -1e-6)
        # A rim of two texels around each triangle, so that filtering finds no holes at seams.
        near = np.minimum(np.minimum(a, b), c) > -2.5 / max(np.sqrt(abs(area)), 1.0)
        view = on[low[1] : high[1], low[0] : high[0]]
        write = inside | (near & ~view)
        block = a[..., None] * at[tri[0]] + b[..., None] * at[tri[1]] + c[..., None] * at[tri[2]]
        where[low[1] : high[1], low[0] : high[0]][write] = block[write]
        view |= write
    return where, on


def noise(points: np.ndarray, scale: float, seed: int) -> np.ndarray:
    """Smooth value noise in -1..1 at points (..., 3), features of about `scale` in the points' unit."""
    rng = np.random.default_rng(seed)
    table = rng.uniform(-1, 1, 4096)
    scaled = points / scale
    cell = np.floor(scaled).astype(np.int64)
    part = scaled - cell
    part = part * part * (3 - 2 * part)
    total = np.zeros(points.shape[:-1])
    for dx in (0, 1):
        for dy in (0, 1):
            for dz in (0, 1):
                key = (cell[..., 0] + dx) * 73856093 ^ (cell[..., 1] + dy) * 19349663 ^ (cell[..., 2] + dz) * 83492791
                weight = (part[..., 0] if dx else 1 - part[..., 0]) * (part[..., 1] if dy else 1 - part[..., 1])
                total += weight * (part[..., 2] if dz else 1 - part[..., 2]) * table[(key & 4095)]
    return total
