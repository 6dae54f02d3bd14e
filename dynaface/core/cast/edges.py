"""The rims of lips and lids on a character's mesh, found from what its own shapes move.

Where the jaw opens, skin that lies together at rest goes apart: there is the seam of the lips. Where an eye closes, the
lowest skin that comes down is the rim of the upper lid, and the highest below it that stays is the lower one's.
"""

from collections.abc import Mapping

import numpy as np
from scipy.spatial import cKDTree

from dynaface.core.cast.geometry import Array, Geometry, MeshGeometry
from dynaface.core.cast.study import Edge

STATIONS = np.linspace(-0.7, 0.7, 7)  # across the mouth or eye, in half widths
REACHES = (0.012, 0.02, 0.03, 0.04)  # of the face's height: how far apart the lips may be at rest
TOUCHING = 0.06  # of the mouth's width: rims that are this near at rest are closed
Parts = Mapping[str, tuple[tuple[str, float], ...]]


def find_edges(geometry: Geometry, parts: Parts) -> dict[str, Edge]:
    """Edges by name; parts: target -> (shape, gain) pairs. What cannot be found is left out."""
    face = geometry.face
    if face is None:
        return {}
    out: dict[str, Edge] = {}
    seam = _seam(face, _driven(face, parts, "jawOpen"))
    if seam is not None:
        rims, out["lips"] = seam
        out |= _teeth(geometry, face, rims, out["lips"].size)
    for side in ("left", "right"):
        lid = _lid(face, _driven(face, parts, f"eyeBlink{side.capitalize()}"))
        if lid is not None:
            out[f"lid {side}"] = lid
    return out


def _driven(mesh: MeshGeometry, parts: Parts, shape: str) -> Array | None:
    """(vertices, 3) offsets of the targets that the shape alone or mostly drives."""
    held = [g * mesh.offsets[t] for t, made in parts.items() if t in mesh.offsets
            for s, g in made if s == shape and len(made) <= 2]  # fmt: skip
    return np.asarray(np.sum(held, axis=0)) if held else None


def _changes(mesh: MeshGeometry, of: Array) -> dict[str, Array]:
    """target -> (stations,) from a (stations, vertices-weighted) difference; of: (stations, 2) vertices, second above first."""
    out = {}
    for target, offset in mesh.offsets.items():
        change = offset[of[:, 1], 1] - offset[of[:, 0], 1]
        if np.abs(change).max() > 1e-7:
            out[target] = change
    return out


def _seam(mesh: MeshGeometry, opened: Array | None) -> tuple[Array, Edge] | None:
    """((stations, 2) vertices of lower and upper rim, the lips' edge)."""
    if opened is None or np.abs(opened).max() < 1e-6:
        return None
    tall = float(np.ptp(mesh.points[np.linalg.norm(opened, axis=1) > 0.02 * np.abs(opened).max(), 1])) or 1.0
    drop = -opened[:, 1]
    most = float(np.quantile(drop[drop > 0.1 * drop.max()], 0.95)) if (drop > 0.1 * drop.max()).any() else 0.0
    if most <= 0:
        return None
    part = drop / most
    for reach in REACHES:
        pairs = cKDTree(mesh.points).query_pairs(reach * tall, output_type="ndarray")
        if not len(pairs):
            continue
        first, second = pairs.T
        apart = np.abs(part[first] - part[second]) > 0.45
        if apart.sum() >= 10:
            break
    else:
        return None
    low = np.where(part[first] > part[second], first, second)[apart]
    high = np.where(part[first] > part[second], second, first)[apart]
    # The seam that is seen lies in front; pairs deep in the mouth or at the throat are not lips.
    front = mesh.points[np.concatenate([low, high]), 2].max()
    near = (mesh.points[low, 2] > front - 0.22 * tall) & (mesh.points[high, 2] > front - 0.22 * tall)
    low, high = low[near], high[near]
    x = (mesh.points[low, 0] + mesh.points[high, 0]) / 2
    middle, half = float((np.quantile(x, 0.01) + np.quantile(x, 0.99)) / 2), float(np.ptp(x)) / 2
    if len(low) < 6 or half <= 0:
        return None
    rims = []
    for station in STATIONS:
        at = middle + station * half
        rows = np.argsort(np.abs(x - at))[: max(3, len(x) // 20)]
        # The foremost pair of those nearby.
        row = rows[np.argmax(mesh.points[low[rows], 2] + mesh.points[high[rows], 2])]
        rims.append((low[row], high[row]))
    of = np.array(rims)
    gap = mesh.points[of[:, 1], 1] - mesh.points[of[:, 0], 1]
    if (
        abs(float(np.median(gap))) < TOUCHING * 2 * half
    ):  # a mouth that rests shut is shut, whatever its lips are curled
        gap = np.zeros(len(gap))
    return of, Edge(gap, _changes(mesh, of), 2 * half)


def _lid(mesh: MeshGeometry, closed: Array | None) -> Edge | None:
    if closed is None or np.abs(closed).max() < 1e-6:
        return None
    down = -closed[:, 1]
    fall = float(down.max())
    if fall < 1e-6:  # what is called a blink and brings nothing down shuts no eye
        return None
    moving = down > 0.5 * fall
    x = mesh.points[moving, 0]
    middle, half = float((x.min() + x.max()) / 2), float(np.ptp(x)) / 2
    if half <= 0:
        return None
    rims = []
    for station in STATIONS * 0.8:
        column = np.abs(mesh.points[:, 0] - middle - station * half) < 0.16 * half
        upper = np.flatnonzero(column & (down > 0.5 * down[column].max(initial=0.0)) & (down > 0.3 * fall))
        if not len(upper):
            continue
        # The rim: the lowest of the foremost skin that comes down; what lies behind is the lid's inner side.
        rim = upper[np.argmin(mesh.points[upper, 1] - 0.5 * (mesh.points[upper, 2] - mesh.points[upper, 2].max()))]
        y, z = mesh.points[rim, 1], mesh.points[rim, 2]
        still = np.abs(down) < 0.3 * fall
        below = np.flatnonzero(column & still & (mesh.points[:, 1] < y) & (mesh.points[:, 1] > y - 2.2 * fall)
                               & (np.abs(mesh.points[:, 2] - z) < 0.8 * fall))  # fmt: skip
        if not len(below):
            continue
        low = below[np.argmax(mesh.points[below, 1] + 0.5 * (mesh.points[below, 2] - mesh.points[below, 2].max()))]
        rims.append((low, rim))
    if len(rims) < 3:
        return None
    of = np.array(rims)
    # The aperture is one number: at its corners a lid meets sooner than in the middle.
    gap = np.median(mesh.points[of[:, 1], 1] - mesh.points[of[:, 0], 1], keepdims=True)
    return Edge(gap, {t: np.median(c, keepdims=True) for t, c in _changes(mesh, of).items()}, 2 * half)


def _teeth(geometry: Geometry, face: MeshGeometry, rims: Array, width: float) -> dict[str, Edge]:
    """How far lip rims stand before teeth: other meshes that lie behind the seam."""
    out: dict[str, Edge] = {}
    seam = face.points[rims]
    centre = seam.mean(axis=(0, 1))
    for mesh in geometry.meshes:
        if mesh is face or not len(mesh.points) or "tongue" in mesh.mesh.lower():
            continue
        inside = (np.abs(mesh.points - centre) < width * np.array([1.3, 0.9, 2.4])).all(axis=1)
        if inside.mean() < 0.8:
            continue
        upper = mesh.points[inside, 1].mean() > centre[1]
        front = []
        for station in range(len(rims)):
            lip = face.points[rims[station, 1 if upper else 0]]
            near = np.flatnonzero(np.abs(mesh.points[:, 0] - lip[0]) < 0.12 * width)
            if len(near):
                front.append((rims[station, 1 if upper else 0], near[np.argmax(mesh.points[near, 2])]))
        if len(front) < 3:
            continue
        lips, teeth = np.array(front).T
        gap = face.points[lips, 2] - mesh.points[teeth, 2]
        change = {}
        for target in {**face.offsets, **mesh.offsets}:
            ours = face.offsets[target][lips, 2] if target in face.offsets else np.zeros(len(lips))
            theirs = mesh.offsets[target][teeth, 2] if target in mesh.offsets else np.zeros(len(lips))
            if np.abs(ours - theirs).max() > 1e-7:
                change[target] = ours - theirs
        out[f"teeth {'upper' if upper else 'lower'}"] = Edge(gap, change, width)
    return out
