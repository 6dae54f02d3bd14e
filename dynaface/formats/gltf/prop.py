"""Props as glTF: their surface, how they move by themselves, and baked with the way that they went in a shot."""

from collections.abc import Mapping
from dataclasses import replace
from fractions import Fraction
from typing import Any

import numpy as np
from pygltflib import GLTF2, Animation, AnimationChannel, AnimationChannelTarget, AnimationSampler, Node

from dynaface.core.body.rotations import Array, continuous, inverse, multiply, normalised, rotate
from dynaface.core.errors import InputError
from dynaface.core.prop.prop import PropMotion, PropShape, PropWay
from dynaface.formats.gltf.bodies import moments_of, parents_of, tracks_of, turned
from dynaface.formats.gltf.document import Appender, open_glb
from dynaface.formats.gltf.geometry import places_of, read_geometry
from dynaface.formats.gltf.names import node_name
from dynaface.formats.gltf.sampled import sampled

MAX_POINTS = 50_000


def read_prop(data: bytes) -> PropShape:
    """The surface of a prop and its own motion: that of the highest node which the first animation of the file turns or moves, as the
    whole of it; raises InputError for a file that shows nothing.
    """
    meshes = read_geometry(data).meshes
    points = np.concatenate([m.points for m in meshes]) if meshes else np.zeros((0, 3))
    if not len(points):
        raise InputError("this file has no mesh, so there is nothing to hold", hint="Export the prop with its mesh")
    every = -(-len(points) // MAX_POINTS)
    return PropShape(points[::every].astype(np.float32), _own_motion(open_glb(data)))


def describe_prop(shape: PropShape) -> dict[str, Any]:
    """What is said of a prop when it was read."""
    seconds = len(shape.motion.turns) / float(shape.motion.rate) if shape.motion else 0.0
    return {"size": round(shape.size, 4), "moves": shape.motion is not None, "seconds": round(seconds, 3)}


def _own_motion(document: GLTF2) -> PropMotion | None:
    if not document.animations:
        return None
    moved = tracks_of(document, document.animations[0])
    parents = parents_of(document)
    nodes = sorted(moved.rotation.keys() | moved.translation.keys(), key=lambda n: (_depth(parents, n), n))
    if not nodes:
        return None
    node = nodes[0]
    if document.nodes[node].matrix:
        raise InputError(f"the node {node_name(document, node)!r} is animated but has a matrix", hint="Export it with translation, rotation and scale")  # fmt: skip
    own = replace(moved, rotation={n: t for n, t in moved.rotation.items() if n == node},
                  translation={n: t for n, t in moved.translation.items() if n == node})  # fmt: skip
    at, rate = moments_of(own)
    rest_turn = normalised(np.array(document.nodes[node].rotation or [0, 0, 0, 1], np.float64))
    rest_at = np.array(document.nodes[node].translation or [0, 0, 0], np.float64)
    turns = turned(*own.rotation[node], at) if node in own.rotation else np.broadcast_to(rest_turn, (len(at), 4))
    shifts = sampled(*own.translation[node], at) if node in own.translation else np.broadcast_to(rest_at, (len(at), 3))
    # As the whole file moves: what takes the node from its rest to where it is, seen from outside of all that carries it.
    above = places_of(document)(parents[node]) if parents[node] >= 0 else np.eye(4)
    facing, scale = _rotation_of(above)
    since = multiply(multiply(facing, multiply(turns, inverse(rest_turn))), inverse(facing))
    where = rotate(facing, shifts * scale) + above[:3, 3]
    rest = rotate(facing, rest_at * scale) + above[:3, 3]
    return PropMotion(continuous(normalised(since)), where - rotate(since, np.broadcast_to(rest, where.shape)), rate)


def _depth(parents: list[int], node: int) -> int:
    steps = 0
    while parents[node] >= 0:
        node, steps = parents[node], steps + 1
    return steps


def _rotation_of(matrix: Array) -> tuple[Array, float]:
    """(rotation (4,), even scale) of a matrix (4, 4); raises InputError for one that mirrors or flattens."""
    from scipy.spatial.transform import Rotation

    volume = float(np.linalg.det(matrix[:3, :3]))
    if not volume > 0:
        raise InputError(
            "what the prop hangs on is mirrored or flat", hint="Apply its scale in the program that made it"
        )
    scale = float(np.cbrt(volume))
    return np.asarray(Rotation.from_matrix(matrix[:3, :3] / scale).as_quat()), scale


def carrier_of(name: str) -> str:
    """The node that carries all of a baked prop."""
    return f"{name} carried"


def bake_prop(prop: bytes, way: PropWay, rate: Fraction, size: float, name: str, extras: Mapping[str, Any]) -> bytes:
    """The prop's file with one animation in which a node of its own carries all of it the way that it went, in metres of the shot;
    animations in it are replaced. size: by which it is larger than its file says.
    """
    document = open_glb(prop)
    frames = len(way.at)
    if frames == 0:
        raise InputError("there are no frames to hand over")
    out = Appender(document)
    scene = document.scenes[document.scene or 0] if document.scenes else None
    roots = list(scene.nodes) if scene else [n for n, above in enumerate(parents_of(document)) if above < 0]
    carrier = len(document.nodes)
    document.nodes.append(Node(name=carrier_of(name), children=roots, scale=[size] * 3 if size != 1 else None))
    if scene:
        scene.nodes = [carrier]
    times = out.accessor((np.arange(frames) / float(rate)).astype(np.float32)[:, None], "SCALAR", limits=True)
    animation = Animation(name=name, samplers=[], channels=[], extras={"dynaface": dict(extras)})
    for path, values, kind in (("translation", way.at, "VEC3"), ("rotation", way.turns, "VEC4")):
        output = out.accessor(np.asarray(values, np.float32), kind)
        animation.samplers.append(AnimationSampler(input=times, output=output, interpolation="LINEAR"))
        target = AnimationChannelTarget(node=carrier, path=path)
        animation.channels.append(AnimationChannel(sampler=len(animation.samplers) - 1, target=target))
    document.animations = [animation]
    out.finish()
    return b"".join(document.save_to_bytes())
