"""A performance baked onto its character as a glTF binary, and read back from one."""

from collections.abc import Callable, Mapping
from fractions import Fraction
from typing import Any

import numpy as np
from pygltflib import GLTF2, Animation, AnimationChannel, AnimationChannelTarget, AnimationSampler

from dynaface.core.body.rotations import normalised
from dynaface.core.errors import InputError
from dynaface.core.handover.few_keys import few_keys
from dynaface.core.handover.options import HandoverOptions
from dynaface.core.perform.perform import Performance
from dynaface.formats.gltf.character import skeleton_of
from dynaface.formats.gltf.document import Appender, accessor_array, open_glb
from dynaface.formats.gltf.names import node_name, target_names
from dynaface.formats.gltf.sampled import sampled

AS_IT_IS = HandoverOptions()


def bake_glb(
    character: bytes,
    performance: Performance,
    extras: Mapping[str, Any],
    name: str,
    options: HandoverOptions = AS_IT_IS,
) -> bytes:
    """The character's file with one animation of weights, joints and root travel; animations in it are replaced.

    extras: kept under extras.dynaface of the animation (sound offset, timecode, rate); of the options, names and tolerance count here.
    """
    document = open_glb(character)
    out = Appender(document)
    rate = float(performance.channels.rate)
    frames = performance.channels.frames
    if frames == 0:
        raise InputError("there are no frames to hand over")
    timed: dict[bytes, int] = {}
    animation = Animation(name=name, samplers=[], channels=[], extras={"dynaface": dict(extras)})

    def track(node: int, path: str, values: np.ndarray, kind: str) -> None:
        kept = few_keys(values, options.tolerance)
        if (known := kept.tobytes()) not in timed:
            timed[known] = out.accessor((kept / rate).astype(np.float32)[:, None], "SCALAR", limits=True)
        shown = values[kept].astype(np.float32)
        output = out.accessor(shown.reshape(-1, 1) if kind == "SCALAR" else shown, kind)
        animation.samplers.append(AnimationSampler(input=timed[known], output=output, interpolation="LINEAR"))
        animation.channels.append(
            AnimationChannel(sampler=len(animation.samplers) - 1, target=AnimationChannelTarget(node=node, path=path))
        )

    still = set(performance.cast.still)
    column = {t: i for i, t in enumerate(performance.cast.targets)}
    for index, node in enumerate(document.nodes):
        if node.mesh is None:
            continue
        names = target_names(document, node.mesh)
        if not any(n in column for n in names):
            continue
        weights = np.zeros((frames, len(names)), np.float32)
        for i, target in enumerate(names):
            if target in column and (node_name(document, index), target) not in still:
                weights[:, i] = performance.cast.weights[:, column[target]]
        track(index, "weights", weights, "SCALAR")
    skeleton, nodes = skeleton_of(document)
    for i, joint in enumerate(performance.joints):
        track(nodes[joint], "rotation", performance.local[:, i], "VEC4")
    for joint, shift in performance.shifts.items():
        assert skeleton is not None
        if joint != performance.root_joint:
            track(nodes[joint], "translation", skeleton.offsets[skeleton.index(joint)] + shift, "VEC3")
    if performance.root_joint and skeleton is not None:
        rest = skeleton.offsets[skeleton.index(performance.root_joint)]
        track(nodes[performance.root_joint], "translation", rest + performance.root, "VEC3")
    if not animation.channels:
        raise InputError("the take moves nothing on this character", hint="Look at the matches of the cast sheet")
    document.animations = [animation]
    _rename(document, list(nodes.values()), options.named)
    out.finish()
    return b"".join(document.save_to_bytes())


def _rename(document: GLTF2, joints: list[int], named: Callable[[str], str]) -> None:
    """Joints and targets are called as they are to be called."""
    for joint in joints:
        document.nodes[joint].name = named(node_name(document, joint))
    for number, mesh in enumerate(document.meshes):
        if names := target_names(document, number):
            mesh.extras = {**(mesh.extras or {}), "targetNames": [named(n) for n in names]}


def sample_glb(
    data: bytes, frames: np.ndarray, rate: Fraction | None = None, nodes: range | None = None
) -> dict[tuple[str, str], np.ndarray]:
    """(node, path) -> values of a baked file at whole frames, read back from its own bytes: "rotation" (n, 4), "translation"
    (n, 3), "weights" (n, targets), and "weights of TARGET" (n,). rate: of the frames; without it there is a key on each; nodes: those that are
    looked at, None for all.
    """
    document = open_glb(data)
    if not document.animations:
        raise InputError("the file has no animation")
    animation = document.animations[0]
    out = {}
    for channel in animation.channels:
        if nodes is not None and channel.target.node not in nodes:
            continue
        sampler = animation.samplers[channel.sampler]
        count = document.accessors[sampler.input].count
        values = accessor_array(document, sampler.output).reshape(count, -1)
        node = node_name(document, channel.target.node)
        if rate is None:
            values = values[frames]
        else:
            times = accessor_array(document, sampler.input)[:, 0].astype(np.float64)
            values = sampled(times, values, sampler.interpolation or "LINEAR", np.asarray(frames) / float(rate))
            values = normalised(values) if channel.target.path == "rotation" else values
        out[(node, channel.target.path)] = values
        if channel.target.path == "weights":
            names = target_names(document, document.nodes[channel.target.node].mesh)
            out |= {(node, f"weights of {t}"): values[:, i] for i, t in enumerate(names)}
    return out
