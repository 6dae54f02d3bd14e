"""Plain solids for characters of tin: turned profiles, balls, plates; each with vertices, quads and smooth normals."""

from dataclasses import dataclass

import numpy as np

from tools.characters.surface import normals


@dataclass(frozen=True)
class Solid:
    """points (n, 3) metres, quads (m, 4), normal (n, 3), uv (n, 2) in 0..1."""

    points: np.ndarray
    quads: np.ndarray
    normal: np.ndarray
    uv: np.ndarray

    def moved(self, by: np.ndarray) -> "Solid":
        """The same elsewhere."""
        return Solid(self.points + by, self.quads, self.normal, self.uv)


def turned(profile: np.ndarray, around: int = 48, axis: str = "y", part: tuple[float, float] = (0, 360)) -> Solid:
    """A profile (k, 2) of (radius, height) turned about an axis, or about a part of it in degrees from +z toward +x.

    A step in the profile that is doubled is a hard edge.
    """
    whole = part[1] - part[0] >= 360
    angle = np.radians(np.linspace(*part, around + 1))
    ring = np.stack([np.sin(angle), np.cos(angle)], axis=1)
    points = np.array([[r * s, h, r * c] for r, h in profile for s, c in ring])
    grid = np.arange(len(profile) * (around + 1)).reshape(len(profile), around + 1)
    quads = np.stack([grid[:-1, :-1], grid[:-1, 1:], grid[1:, 1:], grid[1:, :-1]], axis=-1)
    apart = np.linalg.norm(np.diff(profile, axis=0), axis=1) > 1e-9
    quads = quads[apart].reshape(-1, 4)
    uv = np.array(
        [[a / max(around, 1), k / max(len(profile) - 1, 1)] for k in range(len(profile)) for a in range(around + 1)]
    )
    normal = normals(points, quads)
    if whole:  # the seam is one edge
        rows = grid[:, [0, -1]]
        both = normal[rows].sum(axis=1)
        normal[rows] = (both / np.maximum(np.linalg.norm(both, axis=1, keepdims=True), 1e-9))[:, None]
    if axis == "z":
        points, normal = points[:, [0, 2, 1]] * [1, -1, 1], normal[:, [0, 2, 1]] * [1, -1, 1]
    if axis == "x":
        points, normal = points[:, [1, 0, 2]] * [1, -1, 1], normal[:, [1, 0, 2]] * [1, -1, 1]
    return Solid(points, quads, normal, uv)


def ball(radius: float, low: float = -90, high: float = 90, rings: int = 20, thick: float = 0.0, around: int = 40,
         part: tuple[float, float] = (0, 360)) -> Solid:  # fmt: skip
    """A ball, or the band of one between two latitudes, as a shell of a thickness where that is given."""
    lat = np.radians(np.linspace(low, high, rings))
    outer = np.stack([radius * np.cos(lat), radius * np.sin(lat)], axis=1)
    if not thick:
        return turned(outer, around, part=part)
    inner = outer[::-1] * (1 - thick / radius)
    return turned(np.concatenate([outer, outer[-1:], inner[:1], inner, inner[-1:], outer[:1]]), around, part=part)


def plate(size: np.ndarray, bevel: float) -> Solid:
    """A box with bevelled edges about its middle."""
    faces, points = [], []
    half = np.asarray(size) / 2
    for axis in range(3):
        for sign in (-1, 1):
            u, v = (axis + 1) % 3, (axis + 2) % 3
            corners = []
            for a, b in ((-1, -1), (1, -1), (1, 1), (-1, 1)):
                at = np.zeros(3)
                at[axis], at[u], at[v] = sign * half[axis], a * (half[u] - bevel), b * (half[v] - bevel)
                corners.append(at)
            start = len(points)
            points += corners
            faces.append([start + i for i in ((0, 1, 2, 3) if sign > 0 else (3, 2, 1, 0))])
    made, quads = np.array(points), [list(f) for f in faces]
    # Bevels: strips between neighbouring faces, and the corners' triangles.
    key = {tuple(np.sign(np.round(p, 9)).astype(int)) + (i // 4,): i for i, p in enumerate(made)}
    for axis in range(3):
        u, v = (axis + 1) % 3, (axis + 2) % 3
        for a in (-1, 1):
            for b in (-1, 1):
                first, second = 2 * u + (a > 0), 2 * v + (b > 0)
                ends = []
                for c in (-1, 1):
                    sign = [0, 0, 0]
                    sign[axis], sign[u], sign[v] = c, a, b
                    ends.append((key[(*sign, first)], key[(*sign, second)]))
                strip = [ends[0][0], ends[1][0], ends[1][1], ends[0][1]]
                quads.append(strip if a * b > 0 else strip[::-1])
    for a in (-1, 1):
        for b in (-1, 1):
            for c in (-1, 1):
                tri = [key[(a, b, c, 2 * k + ((a, b, c)[k] > 0))] for k in range(3)]
                tri = tri if a * b * c > 0 else tri[::-1]
                quads.append([*tri, tri[-1]])
    out = np.array(quads)
    # Convex: every face must look away from the middle.
    a, b, c = (made[out[:, k]] for k in range(3))
    inward = (np.cross(b - a, c - a) * (a + c)).sum(axis=1) < 0
    out[inward] = out[inward][:, ::-1]
    return Solid(made, out, normals(made, out), np.zeros((len(made), 2)))


def joined(solids: list[Solid]) -> Solid:
    """Several as one."""
    start, quads = 0, []
    for solid in solids:
        quads.append(solid.quads + start)
        start += len(solid.points)
    return Solid(
        *(
            np.concatenate(p)
            for p in ([s.points for s in solids], quads, [s.normal for s in solids], [s.uv for s in solids])
        )
    )


def tube(line: np.ndarray, radius: np.ndarray | float, around: int = 18) -> Solid:
    """A tube along a line (n, 3) of metres, as thick as radius () or (n,) says."""
    way = np.gradient(line, axis=0)
    way /= np.linalg.norm(way, axis=1, keepdims=True)
    side = np.cross(way, [0.0, 0, 1] if abs(way[0, 2]) < 0.8 else [1.0, 0, 0])
    side /= np.linalg.norm(side, axis=1, keepdims=True)
    up = np.cross(side, way)
    angle = np.linspace(0, 2 * np.pi, around + 1)
    size = np.broadcast_to(radius, len(line))[:, None, None]
    points = line[:, None] + size * (
        np.cos(angle)[None, :, None] * side[:, None] + np.sin(angle)[None, :, None] * up[:, None]
    )
    normal = (points - line[:, None]) / size
    grid = np.arange(points.shape[0] * points.shape[1]).reshape(points.shape[:2])
    quads = np.stack([grid[:-1, :-1], grid[1:, :-1], grid[1:, 1:], grid[:-1, 1:]], axis=-1).reshape(-1, 4)
    if np.cross(points[1, 0] - points[0, 0], points[0, 1] - points[0, 0]) @ normal[0, 0] < 0:
        quads = quads[:, ::-1]
    return Solid(points.reshape(-1, 3), quads, normal.reshape(-1, 3), np.zeros((points.shape[0] * points.shape[1], 2)))
