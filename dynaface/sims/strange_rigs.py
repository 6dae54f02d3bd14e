"""Made-up character rigs whose targets have names that say nothing, with the truth of what they do. A seed makes one.

Proportions are changed by smooth random fields, each shape is changed as a made-up performer's is, the surface is made
coarser or finer, vertices come in another order, and targets that are no standard shape are mixed in.
"""

from dataclasses import dataclass
from typing import Literal

import numpy as np

from dynaface.core.cast.geometry import Array, Faces, Geometry, MeshGeometry
from dynaface.core.shapes.standard import SHAPES
from dynaface.core.track.head import EYES, TEETH, TONGUE, Head
from dynaface.sims.footage.performer import make_performer

Surface = Literal["coarser", "as it is", "finer"]
SPLIT = ("browInnerUp", "cheekPuff", "mouthPucker", "mouthFunnel", "mouthRollLower", "mouthShrugUpper")


@dataclass(frozen=True)
class StrangeRig:
    """geometry; truth: target -> the shape that it does, or that it is a piece of; "" for one that is none."""

    geometry: Geometry
    truth: dict[str, str]


def make_rig(head: Head, seed: int, surface: Surface = "as it is", extra: int = 68, missing: int = 5, split: int = 0
             ) -> StrangeRig:  # fmt: skip
    """A rig of a seed with `extra` targets that are no shape, without `missing` shapes, `split` of them in two halves."""
    rng = np.random.default_rng(seed)
    performer = make_performer(head, seed + 7000, 0.15)
    points, triangles = _proportions(performer.points, rng), head.triangles.astype(np.int64)
    offsets = np.array([performer.pose(row) - performer.points for row in np.eye(len(SHAPES))])
    part = np.full(len(points), -1)
    for number in range(5):
        part[np.unique(triangles[head.part == number])] = number
    points, offsets, triangles, part = _meshed(points, offsets, triangles, part, surface, rng)
    gone = set(rng.choice(len(SHAPES), missing, replace=False)) if missing else set()
    rows: list[tuple[str, Array]] = []
    halved = set(rng.choice(SPLIT, split, replace=False)) if split else set()
    for number, shape in enumerate(SHAPES):
        if number in gone:
            continue
        if shape in halved:
            side = np.clip(points[:, 0] / 0.008 * 0.5 + 0.5, 0, 1)[:, None]
            rows += [(shape, offsets[number] * side), (shape, offsets[number] * (1 - side))]
        else:
            rows.append((shape, offsets[number]))
    rows += [("", _other(points, offsets, part, rng)) for _ in range(extra)]
    order = rng.permutation(len(rows))
    names = [f"tgt_{rng.integers(0x1000, 0xFFFF):x}_{i}" for i in range(len(rows))]
    scale = rng.choice([1.0, 0.01 * rng.uniform(80, 130), 100.0])
    given = {names[i]: rows[at][1] * scale for i, at in enumerate(order)}
    truth = {names[i]: rows[at][0] for i, at in enumerate(order)}
    return StrangeRig(Geometry(tuple(_parts(points * scale, given, triangles, part))), truth)


def _proportions(points: Array, rng: np.random.Generator) -> Array:
    """The head made wider or longer, with eyes, mouth and chin where a stylist might put them."""
    out = points * rng.uniform(0.85, 1.2, 3)
    waves = rng.normal(0, 1 / 0.07, (8, 3))
    phase, amount = rng.uniform(0, 6.3, 8), rng.normal(0, 1, (8, 3)) * np.sqrt(2 / 8)
    bend = 0.006 * np.cos(points @ waves.T + phase) @ amount
    mirrored = 0.006 * np.cos(points * [-1, 1, 1] @ waves.T + phase) @ amount * [-1, 1, 1]
    return np.asarray(out + (bend + mirrored) / 2)


def _meshed(points: Array, offsets: Array, triangles: Faces, part: np.ndarray, surface: Surface, rng: np.random.Generator
            ) -> tuple[Array, Array, Faces, np.ndarray]:  # fmt: skip
    if surface == "finer":
        edges = np.concatenate([triangles[:, [0, 1]], triangles[:, [1, 2]], triangles[:, [2, 0]]])
        unique, back = np.unique(np.sort(edges, axis=1), axis=0, return_inverse=True)
        ab, bc, ca = (len(points) + back.reshape(3, -1)[k] for k in range(3))
        a, b, c = triangles.T
        triangles = np.concatenate([np.stack(t, axis=1) for t in ((a, ab, ca), (ab, b, bc), (ca, bc, c), (ab, bc, ca))])
        points = np.concatenate([points, points[unique].mean(axis=1)])
        offsets = np.concatenate([offsets, offsets[:, unique].mean(axis=2)], axis=1)
        part = np.concatenate([part, part[unique[:, 0]]])
    elif surface == "coarser":
        cell = rng.uniform(0.004, 0.007)
        key = np.concatenate([np.floor(points / cell).astype(int), part[:, None]], axis=1)
        _, group = np.unique(key, axis=0, return_inverse=True)
        group = group.ravel()
        count = np.bincount(group)
        points = np.stack([np.bincount(group, points[:, k]) / count for k in range(3)], axis=1)
        offsets = np.stack([[np.bincount(group, o[:, k]) / count for k in range(3)] for o in offsets]).transpose(
            0, 2, 1
        )
        part = np.array([part[group == g][0] for g in range(len(count))])
        triangles = group[triangles]
        flat = (
            (triangles[:, 0] == triangles[:, 1])
            | (triangles[:, 1] == triangles[:, 2])
            | (triangles[:, 2] == triangles[:, 0])
        )
        triangles = triangles[~flat]
    order = rng.permutation(len(points))
    place = np.argsort(order)
    return points[order], offsets[:, order], place[triangles], part[order]


def _other(points: Array, offsets: Array, part: np.ndarray, rng: np.random.Generator) -> Array:
    """A target that is no standard shape: a bulge somewhere, or a corrective for two shapes together."""
    if rng.random() < 0.4:
        one, two = rng.choice(len(offsets), 2, replace=False)
        both = np.linalg.norm(offsets[one], axis=1) * np.linalg.norm(offsets[two], axis=1)
        way = rng.normal(0, 1, 3)
        return both[:, None] / max(float(both.max()), 1e-12) * 0.005 * way
    skin = points[(part == 0) & (points[:, 2] > 0)]
    at = skin[rng.integers(len(skin))]
    near = np.exp(-((points - at) ** 2).sum(axis=1) / (2 * rng.uniform(0.008, 0.03) ** 2))
    return (near * (part == 0))[:, None] * rng.normal(0, 0.006, 3)


def _parts(points: Array, given: dict[str, Array], triangles: Faces, part: np.ndarray) -> list[MeshGeometry]:
    """The skin and lashes as one mesh, eyes, teeth and tongue each as their own."""
    out = []
    for name, members in (("skin", (0, 2)), ("balls", (EYES,)), ("bone", (TEETH,)), ("in mouth", (TONGUE,))):
        mine = np.isin(part, members)
        place = np.cumsum(mine) - 1
        kept = triangles[mine[triangles].all(axis=1)]
        moved = {t: o[mine] for t, o in given.items() if name == "skin" or np.abs(o[mine]).max(initial=0) > 1e-5}
        out.append(MeshGeometry(name, points[mine], moved, place[kept]))
    return out
