"""A glTF document's meshes at rest with the offsets of their targets."""

from collections.abc import Callable
from typing import Any

import numpy as np
from pygltflib import GLTF2

from dynaface.core.body.rotations import rotate
from dynaface.core.cast.geometry import Geometry, MeshGeometry
from dynaface.core.errors import InputError
from dynaface.formats.gltf.document import accessor_array, open_glb, scaled_array, vectors
from dynaface.formats.gltf.names import node_name, target_names

MAX_OFFSETS = 60_000_000  # vertices times targets that are held at once


def read_geometry(data: bytes) -> Geometry:
    """Points and offsets of all meshes in the character's space; a skinned mesh is where its vertices say, as glTF has it."""
    document = open_glb(data)
    place = places_of(document)
    meshes: list[MeshGeometry] = []
    twice: list[tuple[str, str]] = []
    held = 0
    for index, node in enumerate(document.nodes):
        if node.mesh is None:
            continue
        name = node_name(document, index)
        matrix = np.eye(4) if node.skin is not None else place(index)
        names = target_names(document, node.mesh)
        held += _vertices(document, node.mesh) * (1 + len(names))
        if held > MAX_OFFSETS:
            raise InputError(f"the meshes have more than {MAX_OFFSETS / 1e6:.0f} million moved vertices", where=name,
                             hint="Bring a character with fewer vertices or fewer targets")  # fmt: skip
        twice += [(name, t) for i, t in enumerate(names) if t in names[:i]]
        meshes.append(_mesh(document, index, name, names, matrix))
    return Geometry(tuple(meshes), _animated(document), tuple(twice))


def _vertices(document: GLTF2, mesh: int) -> int:
    counted = [p.attributes.POSITION for p in document.meshes[mesh].primitives]
    return sum(document.accessors[a].count for a in counted if isinstance(a, int) and 0 <= a < len(document.accessors))


def _mesh(document: GLTF2, node_index: int, name: str, names: tuple[str, ...], matrix: np.ndarray) -> MeshGeometry:
    node = document.nodes[node_index]
    points: list[np.ndarray] = []
    triangles: list[np.ndarray] = []
    offsets: dict[str, list[np.ndarray]] = {}
    holds: list[tuple[np.ndarray, np.ndarray]] = []
    start = 0
    for primitive in document.meshes[node.mesh].primitives:
        if primitive.attributes.POSITION is None:
            continue
        rest = vectors(document, primitive.attributes.POSITION)
        points.append(rest @ matrix[:3, :3].T + matrix[:3, 3])
        triangles.append(_triangles(document, primitive, len(rest)) + start)
        holds.append(_holds(document, primitive, len(rest)) if node.skin is not None else _NONE)
        start += len(rest)
        done: set[str] = set()
        for number, target in enumerate(names):
            given = (primitive.targets or [])[number : number + 1]
            at = (given[0].get("POSITION") if isinstance(given[0], dict) else given[0].POSITION) if given else None
            moved = vectors(document, at) if at is not None else np.zeros_like(rest)
            if len(moved) != len(rest):
                raise InputError(f"the target {target!r} of {name!r} moves {len(moved)} of {len(rest)} vertices")
            if target not in done:  # of two targets of one name the first is kept
                offsets.setdefault(target, []).append(moved @ matrix[:3, :3].T)
                done.add(target)
    if not points:
        return MeshGeometry(name, np.zeros((0, 3)), {})
    joints = [node_name(document, j) for j in document.skins[node.skin].joints] if node.skin is not None else []
    return MeshGeometry(
        name,
        np.concatenate(points),
        {t: np.concatenate(o) for t, o in offsets.items()},
        np.concatenate(triangles),
        _held(joints, holds),
    )


_NONE = (np.zeros((0, 4), np.int64), np.zeros((0, 4)))


def _holds(document: GLTF2, primitive: Any, count: int) -> tuple[np.ndarray, np.ndarray]:
    """(count, 4) joints of the skin and (count, 4) how much each holds."""
    bound, weights = primitive.attributes.JOINTS_0, primitive.attributes.WEIGHTS_0
    if bound is None or weights is None:
        return np.zeros((count, 4), np.int64), np.zeros((count, 4))
    joints, held = accessor_array(document, bound).astype(np.int64), scaled_array(document, weights)
    if joints.shape != (count, 4) or held.shape != (count, 4):
        raise InputError("a skinned mesh has other numbers of vertices, joints and weights")
    return joints, held


def _held(joints: list[str], holds: list[tuple[np.ndarray, np.ndarray]]) -> dict[str, np.ndarray]:
    if not joints:
        return {}
    bound, weights = (np.concatenate([h[k] for h in holds]) for k in (0, 1))
    out = {}
    for number in np.unique(bound[weights > 0]):
        if 0 <= number < len(joints):
            out[joints[number]] = np.where(bound == number, weights, 0).sum(axis=1)
    return out


def _triangles(document: GLTF2, primitive: Any, count: int) -> np.ndarray:
    """(triangles, 3); strips and fans are taken apart, points and lines have none."""
    if primitive.indices is None:
        order = np.arange(count)
    else:
        order = accessor_array(document, primitive.indices)[:, 0].astype(np.int64)
        if len(order) and int(order.max()) >= count:
            raise InputError(f"a triangle names vertex {int(order.max())} of {count}")
    if primitive.mode == 5 and len(order) >= 3:
        made = np.stack([order[:-2], order[1:-1], order[2:]], axis=1)
        made[1::2] = made[1::2, ::-1]
        return made
    if primitive.mode == 6 and len(order) >= 3:
        return np.stack([np.full(len(order) - 2, order[0]), order[1:-1], order[2:]], axis=1)
    if primitive.mode not in (None, 4):
        return np.zeros((0, 3), np.int64)
    return np.asarray(order[: len(order) // 3 * 3].reshape(-1, 3))


def places_of(document: GLTF2) -> Callable[[int], np.ndarray]:
    """Node -> its matrix in the character's space."""
    parent = {child: i for i, node in enumerate(document.nodes) for child in node.children or []}

    def own(index: int) -> np.ndarray:
        node = document.nodes[index]
        if node.matrix:
            return np.array(node.matrix, np.float64).reshape(4, 4).T
        out = np.eye(4)
        turn = np.array(node.rotation or [0, 0, 0, 1], np.float64)
        out[:3, :3] = rotate(turn, np.eye(3)).T * np.array(node.scale or [1, 1, 1], np.float64)
        out[:3, 3] = node.translation or [0, 0, 0]
        return out

    def place(index: int) -> np.ndarray:
        out, steps = own(index), 0
        while index in parent and steps < len(document.nodes):
            index, steps = parent[index], steps + 1
            out = own(index) @ out
        return out

    return place


def _animated(document: GLTF2) -> tuple[tuple[str, str], ...]:
    found = [
        (node_name(document, channel.target.node), animation.name or f"animation {number}")
        for number, animation in enumerate(document.animations or [])
        for channel in animation.channels
        if channel.target.path == "weights" and channel.target.node is not None
    ]
    return tuple(dict.fromkeys(found))
