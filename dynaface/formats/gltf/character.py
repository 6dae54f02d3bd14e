"""A glTF document as a Character: meshes with their targets, the skeleton of its skins."""

from typing import Any

import numpy as np
from pygltflib import GLTF2

from dynaface.core.body.skeleton import Skeleton
from dynaface.core.cast.character import Character, MeshTargets
from dynaface.core.errors import InputError
from dynaface.formats.gltf.document import accessor_array, open_glb


def node_name(document: GLTF2, index: int) -> str:
    """The name of a node, or one made of its number."""
    return document.nodes[index].name or f"node {index}"


def target_names(document: GLTF2, mesh_index: int) -> tuple[str, ...]:
    """Morph target names from extras.targetNames, else from accessor names, else numbered."""
    mesh = document.meshes[mesh_index]
    count = max((len(p.targets or []) for p in mesh.primitives), default=0)
    names = list((mesh.extras or {}).get("targetNames", []))[:count]
    first: Any = next((p.targets for p in mesh.primitives if p.targets), [])
    for i in range(len(names), count):
        place = _position(first[i])
        accessor = document.accessors[place] if place is not None and place < len(document.accessors) else None
        names.append((accessor.name if accessor else None) or f"target{i}")
    return tuple(str(n) for n in names)


def _position(target: object) -> int | None:
    return target.get("POSITION") if isinstance(target, dict) else getattr(target, "POSITION", None)


def read_character(data: bytes, name: str = "") -> Character:
    """The character in a glTF binary; raises InputError when it has neither targets nor joints."""
    document = open_glb(data)
    skeleton, _ = skeleton_of(document)
    meshes = []
    for index, node in enumerate(document.nodes):
        if node.mesh is None:
            continue
        if not 0 <= node.mesh < len(document.meshes):
            raise InputError(f"node {node_name(document, index)!r} names a mesh that is not there")
        joints = moving_joints(document, index)
        meshes.append(MeshTargets(node_name(document, index), target_names(document, node.mesh), joints))
    if not any(m.targets for m in meshes) and skeleton is None:
        raise InputError("the character has neither shapes nor joints", hint="Export it with morph targets or a skin")
    return Character(name, tuple(meshes), skeleton)


def moving_joints(document: GLTF2, node_index: int) -> tuple[str, ...]:
    """The joints that a skinned mesh's vertices hang on."""
    node = document.nodes[node_index]
    if node.skin is None:
        return ()
    joints = document.skins[node.skin].joints
    used: set[int] = set()
    for primitive in document.meshes[node.mesh].primitives:
        bound, weights = primitive.attributes.JOINTS_0, primitive.attributes.WEIGHTS_0
        if bound is None or weights is None:
            continue
        held = accessor_array(document, bound)[accessor_array(document, weights) > 0]
        used |= {int(i) for i in np.unique(held)}
    return tuple(node_name(document, joints[i]) for i in sorted(used) if i < len(joints))


def skeleton_of(document: GLTF2) -> tuple[Skeleton | None, dict[str, int]]:
    """The joints of all skins with the nodes above them, parents first, and the node of each name."""
    count = len(document.nodes)
    parent = [-1] * count
    for index, node in enumerate(document.nodes):
        for child in node.children or []:
            if not 0 <= child < count or parent[child] != -1 or child == index:
                raise InputError(f"node {index} has a child that is not there or not its own")
            parent[child] = index
    wanted: set[int] = set()
    for skin in document.skins or []:
        for joint in skin.joints:
            at, steps = joint, 0
            while at >= 0 and at not in wanted:
                if not 0 <= at < count or steps > count:
                    raise InputError("the nodes of the skeleton go round in a circle or are not there")
                wanted.add(at)
                at, steps = parent[at], steps + 1
    if not wanted:
        return None, {}
    order: list[int] = []
    todo = sorted((i for i in wanted if parent[i] < 0), reverse=True)
    while todo:
        at = todo.pop()
        order.append(at)
        todo += sorted((c for c in document.nodes[at].children or [] if c in wanted), reverse=True)
    names = [node_name(document, i) for i in order]
    if len(set(names)) != len(names):
        twice = next(n for n in names if names.count(n) > 1)
        raise InputError(f"two joints are named {twice!r}", hint="Rename one of them")
    places = {node: i for i, node in enumerate(order)}
    skeleton = Skeleton(
        tuple(names),
        tuple(places.get(parent[i], -1) for i in order),
        np.array([document.nodes[i].translation or [0, 0, 0] for i in order], np.float64),
        np.array([document.nodes[i].rotation or [0, 0, 0, 1] for i in order], np.float64),
    )
    return skeleton, dict(zip(names, order, strict=True))
