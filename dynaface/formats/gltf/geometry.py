"""A glTF document's meshes at rest with the offsets of their targets."""

from collections.abc import Callable

import numpy as np
from pygltflib import GLTF2

from dynaface.core.body.rotations import rotate
from dynaface.core.cast.geometry import Geometry, MeshGeometry
from dynaface.core.errors import InputError
from dynaface.formats.gltf.character import node_name, target_names
from dynaface.formats.gltf.document import COMPONENTS, accessor_array, open_glb


def read_geometry(data: bytes) -> Geometry:
    """Points and offsets of all meshes in the character's space; a skinned mesh is where its vertices say, as glTF has it."""
    document = open_glb(data)
    place = _places(document)
    meshes: list[MeshGeometry] = []
    twice: list[tuple[str, str]] = []
    for index, node in enumerate(document.nodes):
        if node.mesh is None or not 0 <= node.mesh < len(document.meshes):
            continue
        name = node_name(document, index)
        matrix = np.eye(4) if node.skin is not None else place(index)
        names = target_names(document, node.mesh)
        twice += [(name, t) for i, t in enumerate(names) if t in names[:i]]
        meshes.append(_mesh(document, node.mesh, name, names, matrix))
    return Geometry(tuple(meshes), _animated(document), tuple(twice))


def _mesh(document: GLTF2, mesh: int, name: str, names: tuple[str, ...], matrix: np.ndarray) -> MeshGeometry:
    points: list[np.ndarray] = []
    offsets: dict[str, list[np.ndarray]] = {}
    for primitive in document.meshes[mesh].primitives:
        if primitive.attributes.POSITION is None:
            continue
        rest = _values(document, primitive.attributes.POSITION)
        points.append(rest @ matrix[:3, :3].T + matrix[:3, 3])
        for number, target in enumerate(names):
            given = (primitive.targets or [])[number : number + 1]
            at = (given[0].get("POSITION") if isinstance(given[0], dict) else given[0].POSITION) if given else None
            moved = _values(document, at) if at is not None else np.zeros_like(rest)
            if len(moved) != len(rest):
                raise InputError(f"the target {target!r} of {name!r} moves {len(moved)} of {len(rest)} vertices")
            if len(offsets.setdefault(target, [])) < len(points):  # of two targets of one name the first is kept
                offsets[target].append(moved @ matrix[:3, :3].T)
    if not points:
        return MeshGeometry(name, np.zeros((0, 3)), {})
    return MeshGeometry(name, np.concatenate(points), {t: np.concatenate(o) for t, o in offsets.items()})


def _values(document: GLTF2, index: int) -> np.ndarray:
    """(count, 3) of an accessor as lengths: whole numbers that stand for 0..1 or -1..1 are divided."""
    array = accessor_array(document, index)
    accessor = document.accessors[index]
    values = array.astype(np.float64)
    if accessor.normalized:
        values /= float(np.iinfo(COMPONENTS[accessor.componentType][0]).max)
    return values


def _places(document: GLTF2) -> Callable[[int], np.ndarray]:
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
