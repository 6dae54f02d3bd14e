"""A glTF document as a Character: meshes with their targets, the skeleton of its skins."""

from typing import Any

import numpy as np
from pygltflib import GLTF2

from dynaface.core.body.skeleton import Skeleton
from dynaface.core.cast.character import Character, MeshTargets
from dynaface.core.cast.matching import match_targets
from dynaface.core.cast.sheet import CastSheet
from dynaface.core.errors import InputError
from dynaface.formats.gltf.avatar import declared_expressions
from dynaface.formats.gltf.document import accessor_array, open_glb
from dynaface.formats.gltf.names import node_name, target_names

MAX_TARGETS = 4000


def read_character(data: bytes, name: str = "") -> Character:
    """The character in a glTF binary; raises InputError when it has neither targets nor joints."""
    document = open_glb(data)
    skeleton, _ = skeleton_of(document)
    meshes = []
    for index, node in enumerate(document.nodes):
        if node.mesh is None:
            continue
        joints = moving_joints(document, index)
        meshes.append(MeshTargets(node_name(document, index), target_names(document, node.mesh), joints))
    if sum(len(m.targets) for m in meshes) > MAX_TARGETS:
        raise InputError(f"the character has more than {MAX_TARGETS} targets", hint="Bring one with fewer")
    if not any(m.targets for m in meshes) and skeleton is None:
        raise InputError("the character has neither shapes nor joints", hint="Export it with morph targets or a skin")
    declared, eyes = declared_expressions(document, set(skeleton.names) if skeleton else set())
    return Character(name, tuple(meshes), skeleton, None, declared, eyes, _clips(document))


def _clips(document: GLTF2) -> tuple[str, ...]:
    """Names of animations that move shapes."""
    moving = (
        animation.name or f"clip {number}"
        for number, animation in enumerate(document.animations or [], 1)
        if any(c.target is not None and c.target.path == "weights" for c in animation.channels)
    )
    return tuple(moving)


def describe_character(character: Character) -> dict[str, Any]:
    """What a character has, in words and numbers, for `dynaface check` and the report of an upload."""
    report = match_targets(character, CastSheet())
    return {
        "meshes": [m.mesh for m in character.meshes],
        "targets": len(character.targets),
        "joints": len(character.skeleton.names) if character.skeleton else 0,
        "missing": list(report.missing),
        "unused": list(report.unused),
        "clips": list(character.clips),
        "notes": [],
    }


def moving_joints(document: GLTF2, node_index: int) -> tuple[str, ...]:
    """The joints that a skinned mesh's vertices hang on."""
    node = document.nodes[node_index]
    if node.skin is None:
        return ()
    joints = document.skins[node.skin].joints
    if any(not isinstance(j, int) or not 0 <= j < len(document.nodes) for j in joints):
        raise InputError(f"the skin of {node_name(document, node_index)!r} names a joint that is not there")
    used: set[int] = set()
    for primitive in document.meshes[node.mesh].primitives:
        bound, weights = primitive.attributes.JOINTS_0, primitive.attributes.WEIGHTS_0
        if bound is None or weights is None:
            continue
        held = accessor_array(document, bound)[accessor_array(document, weights) > 0]
        used |= {int(i) for i in np.unique(held)}
    return tuple(node_name(document, joints[i]) for i in sorted(used) if 0 <= i < len(joints))


def skeleton_of(document: GLTF2) -> tuple[Skeleton | None, dict[str, int]]:
    """The joints of all skins with the nodes above them, parents first, and the node of each name."""
    count = len(document.nodes)
    parent = [-1] * count
    for index, node in enumerate(document.nodes):
        for child in node.children or []:
            parent[child] = index
    wanted: set[int] = set()
    for skin in document.skins or []:
        for joint in skin.joints:
            if not isinstance(joint, int) or not 0 <= joint < count:
                raise InputError(f"a skin names the joint {joint}, which is not there")
            at = joint
            while at >= 0 and at not in wanted:
                wanted.add(at)
                at = parent[at]
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
