"""How the meshes of a glTF hang on its joints, as one bind pose for all of them."""

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np
from pygltflib import GLTF2
from scipy.spatial.transform import Rotation

from dynaface.core.errors import InputError
from dynaface.core.perform.perform import Performance
from dynaface.formats.gltf.bodies import parents_of
from dynaface.formats.gltf.character import skeleton_of
from dynaface.formats.gltf.document import scaled_array
from dynaface.formats.gltf.geometry import places_of
from dynaface.formats.gltf.names import node_name

APART = 1e-3  # metres, and parts of 1, by which bind poses of two skins may differ
Array = np.ndarray


@dataclass(frozen=True)
class Binding:
    """joints: those of the skeleton, parents first; nodes: of each; binds: (joints, 4, 4) where each is when meshes are bound;
    rests: (joints, 4, 4) each against its parent at rest, scale included; placed: mesh node -> (4, 4) that takes its points to the bind pose;
    rigid: mesh node -> the joint that carries it as a whole.
    """

    joints: tuple[str, ...]
    parents: tuple[int, ...]
    nodes: tuple[int, ...]
    binds: Array
    rests: Array
    placed: Mapping[int, Array]
    rigid: Mapping[int, int]


def binding_of(document: GLTF2) -> Binding | None:
    """The binding of a document, None without joints; raises InputError where two skins bind the same joints in two ways."""
    skeleton, nodes = skeleton_of(document)
    if skeleton is None:
        return None
    order = [nodes[n] for n in skeleton.names]
    number = {node: i for i, node in enumerate(order)}
    place, above = places_of(document), parents_of(document)
    world = np.stack([place(n) for n in order])
    rests = np.stack(
        [world[i] if p < 0 else np.linalg.inv(world[p]) @ world[i] for i, p in enumerate(skeleton.parents)]
    )
    binds: dict[int, Array] = {}
    placed: dict[int, Array] = {}
    rigid: dict[int, int] = {}
    for index, node in enumerate(document.nodes):
        if node.mesh is not None and node.skin is not None:
            placed[index] = _bound(document, index, number, binds)
    for index, node in enumerate(document.nodes):
        if node.mesh is None or node.skin is not None:
            continue
        at = index
        while at >= 0 and at not in number:
            at = above[at]
        if at >= 0:
            joint = rigid[index] = number[at]
            placed[index] = binds.get(joint, world[joint]) @ np.linalg.inv(world[joint])
    bound = np.stack([binds.get(i, world[i]) for i in range(len(order))])
    return Binding(skeleton.names, skeleton.parents, tuple(order), bound, rests, placed, rigid)


def locals_of(made: Performance, binding: Binding | None) -> tuple[Array, Array, Array]:
    """(frames, joints, 3) places in metres against the joint above, (frames, joints, 4) turns, (joints, 3) scales; one joint that stays
    where there is no binding.
    """
    frames = made.channels.frames
    if binding is None:
        return np.zeros((frames, 1, 3)), np.tile([0.0, 0.0, 0.0, 1.0], (frames, 1, 1)), np.ones((1, 3))
    scales = np.linalg.norm(binding.rests[:, :3, :3], axis=1)
    still = Rotation.from_matrix(binding.rests[:, :3, :3] / scales[:, None, :]).as_quat()
    places, turns = np.tile(binding.rests[:, :3, 3], (frames, 1, 1)), np.tile(still, (frames, 1, 1))
    for number, name in enumerate(made.joints):
        turns[:, binding.joints.index(name)] = made.local[:, number]
    for name, shift in made.moved.items():
        places[:, binding.joints.index(name)] += shift
    return places, turns, scales


def worlds_of(made: Performance, binding: Binding) -> Array:
    """(frames, joints, 4, 4) where each joint is."""
    places, turns, scales = locals_of(made, binding)
    own = np.zeros((*turns.shape[:2], 4, 4))
    own[..., :3, :3] = (
        Rotation.from_quat(turns.reshape(-1, 4)).as_matrix().reshape(*turns.shape[:2], 3, 3) * scales[:, None, :]
    )
    own[..., :3, 3] = places
    own[..., 3, 3] = 1
    for joint, parent in enumerate(binding.parents):
        if parent >= 0:
            own[:, joint] = own[:, parent] @ own[:, joint]
    return own


def _bound(document: GLTF2, index: int, number: Mapping[int, int], binds: dict[int, Array]) -> Array:
    """(4, 4) of a skinned mesh; joints that no skin before it had are added to `binds`."""
    skin = document.skins[document.nodes[index].skin]
    own = [number[j] for j in skin.joints]
    if skin.inverseBindMatrices is None:
        back = np.tile(np.eye(4), (len(own), 1, 1))
    else:
        back = scaled_array(document, skin.inverseBindMatrices)
        if back.shape != (len(own), 16):
            raise InputError(
                f"the skin of {node_name(document, index)!r} has {len(back)} bind matrices for {len(own)} joints"
            )
        back = back.reshape(-1, 4, 4).transpose(0, 2, 1)
    if (np.abs(np.linalg.det(back)) < 1e-12).any():
        raise InputError(f"a bind matrix of the skin of {node_name(document, index)!r} flattens its joint")
    shared = [k for k, joint in enumerate(own) if joint in binds]
    to_bind = binds[own[shared[0]]] @ back[shared[0]] if shared else np.eye(4)
    for k, joint in enumerate(own):
        if joint not in binds:
            binds[joint] = to_bind @ np.linalg.inv(back[k])
        elif np.abs(binds[joint] @ back[k] - to_bind).max() > APART:
            raise InputError(f"the skin of {node_name(document, index)!r} binds its joints otherwise than another does",
                             hint="Bind all meshes in one pose, or hand over as .glb")  # fmt: skip
    return to_bind
