"""Reads the CC0 base figure: mesh with groups, sparse targets, rig with weights."""

import gzip
import json
from dataclasses import dataclass
from functools import lru_cache
from pathlib import Path

import numpy as np

DECIMETRE = 0.1


@dataclass(frozen=True)
class Base:
    """points (vertices, 3) in decimetres; uv (coordinates, 2); per group the quads as (faces, 4) of points and of uv.

    A triangle's last corner is repeated.
    """

    points: np.ndarray
    uv: np.ndarray
    faces: dict[str, tuple[np.ndarray, np.ndarray]]


def read_base(data: Path) -> Base:
    """The base figure of a data folder."""
    points, uv = [], []
    groups: dict[str, tuple[list, list]] = {}
    current: tuple[list, list] = ([], [])
    for line in (data / "mpfb2/3dobjs/base.obj").read_text().splitlines():
        word, _, rest = line.partition(" ")
        if word == "v":
            points.append([float(v) for v in rest.split()])
        elif word == "vt":
            uv.append([float(v) for v in rest.split()[:2]])
        elif word == "g":
            current = groups.setdefault(rest.strip(), ([], []))
        elif word == "f":
            corners = [tuple(int(i) - 1 for i in c.split("/")[:2]) for c in rest.split()]
            corners += corners[-1:] * (4 - len(corners))
            current[0].append([c[0] for c in corners])
            current[1].append([c[1] for c in corners])
    faces = {n: (np.array(f), np.array(t)) for n, (f, t) in groups.items() if f}
    return Base(np.array(points), np.array(uv), faces)


@lru_cache(maxsize=512)
def read_target(path: Path, count: int) -> np.ndarray:
    """(vertices, 3) offsets in decimetres of one sparse target."""
    text = gzip.decompress(path.read_bytes()).decode() if path.suffix == ".gz" else path.read_text()
    out = np.zeros((count, 3))
    for line in text.splitlines():
        parts = line.split()
        if len(parts) == 4 and not line.startswith("#"):
            out[int(parts[0])] += [float(p) for p in parts[1:]]
    return out


@dataclass(frozen=True)
class Rig:
    """names, parents (index or -1), heads (joints, 3) in decimetres, weights (vertices, joints)."""

    names: tuple[str, ...]
    parents: tuple[int, ...]
    heads: np.ndarray
    weights: np.ndarray


# Joint of the base rig -> our name; joints that are not here give their weights to the nearest one above.
_TRUNK = {"root": "hips", "spine05": "spine1", "spine04": "spine2", "spine03": "spine3", "spine02": "spine4",
          "spine01": "spine5", "neck01": "neck1", "neck02": "neck2", "neck03": "neck3", "head": "head"}  # fmt: skip
_SIDED = {"eye": "eye", "clavicle": "clavicle", "upperarm01": "upperArm", "lowerarm01": "lowerArm", "wrist": "hand",
          "upperleg01": "upperLeg", "lowerleg01": "lowerLeg", "foot": "foot", "toe1-1": "toe"}  # fmt: skip
_FINGERS = {1: "thumb", 2: "index", 3: "middle", 4: "ring", 5: "little"}


def joint_names() -> dict[str, str]:
    """Base joint -> our joint name."""
    out = dict(_TRUNK)
    for letter, side in (("L", "Left"), ("R", "Right")):
        out |= {f"{old}.{letter}": new + side for old, new in _SIDED.items()}
        out |= {f"finger{n}-{k}.{letter}": f"{word}{k}{side}" for n, word in _FINGERS.items() for k in (1, 2, 3)}
    return out


def read_rig(data: Path, base: Base, points: np.ndarray) -> Rig:
    """The rig fitted to shaped points (vertices, 3)."""
    bones = json.loads((data / "mpfb2/rigs/standard/rig.default.json").read_text())
    weights = json.loads((data / "mpfb2/rigs/standard/weights.default.json").read_text())["weights"]
    ours = joint_names()
    order: list[str] = []

    def visit(name: str) -> None:
        if name in ours:
            order.append(name)
        for child in sorted(bones):
            if bones[child].get("parent") == name:
                visit(child)

    visit("root")

    def kept(name: str) -> str:
        # Toes hang on the toe, everything else on the nearest kept joint above.
        if name.startswith("toe"):
            return f"toe1-1.{name[-1]}"
        while name not in ours:
            name = bones[name]["parent"]
        return name

    index = {n: i for i, n in enumerate(order)}
    table = np.zeros((len(base.points), len(order)))
    for bone, pairs in weights.items():
        if bone in bones:
            for vertex, weight in pairs:
                table[vertex, index[kept(bone)]] += weight
    table /= np.maximum(table.sum(axis=1, keepdims=True), 1e-9)
    heads = np.array([_head(bones[n]["head"], base, points) for n in order])
    parents = tuple(index[kept(bones[n]["parent"])] if bones[n].get("parent") else -1 for n in order)
    return Rig(tuple(ours[n] for n in order), parents, heads, table)


def _head(spec: dict, base: Base, points: np.ndarray) -> np.ndarray:
    if spec["strategy"] == "CUBE":
        return points[np.unique(base.faces[spec["cube_name"]][0])].mean(axis=0)
    if spec["strategy"] == "VERTEX":
        return points[spec["vertex_index"]]
    return points[spec["vertex_indices"]].mean(axis=0)
