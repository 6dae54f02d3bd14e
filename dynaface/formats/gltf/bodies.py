"""Skeletons that an animation of a glTF moves, each as a motion of its own."""

from dataclasses import dataclass
from fractions import Fraction
from typing import Any

import numpy as np
from pygltflib import GLTF2

from dynaface.core.body.rotations import Array, continuous, normalised, rotate
from dynaface.core.body.skeleton import Motion, Skeleton
from dynaface.core.clock.rates import nominal_rate, parse_rate
from dynaface.core.clock.timecode import Timecode, parse_timecode
from dynaface.core.errors import InputError, LimitError
from dynaface.formats.gltf.document import open_glb, scaled_array
from dynaface.formats.gltf.names import node_name
from dynaface.formats.gltf.sampled import sampled

MAX_FRAMES, MAX_JOINTS, LEAST_JOINTS = 1_000_000, 500, 4
Track = tuple[np.ndarray, np.ndarray, str]


@dataclass(frozen=True)
class Moved:
    """rotation, translation: node -> (times, values, interpolation)."""

    rotation: dict[int, Track]
    translation: dict[int, Track]

    @property
    def tracks(self) -> list[Track]:
        return [*self.rotation.values(), *self.translation.values()]


def read_gltf_bodies(data: bytes) -> list[tuple[str, Motion]]:
    """(name, motion) of every skeleton that the first animation of the file moves; raises InputError where it moves none."""
    document = open_glb(data)
    parents = parents_of(document)
    number = moving_animation(document, parents)
    if number is None:
        raise InputError(
            "no animation of this file turns the joints of a skeleton", hint="Export the skeleton's animation with it"
        )
    moved = tracks_of(document, document.animations[number])
    return [_motion(document, parents, group, moved, document.animations[number]) for group in _turned(document, parents, moved)]  # fmt: skip


def moving_animation(document: GLTF2, parents: list[int]) -> int | None:
    """The number of the first animation that turns joints of a skeleton, None for none."""
    for number, animation in enumerate(document.animations or []):
        if _turned(document, parents, tracks_of(document, animation)):
            return number
    return None


def _turned(document: GLTF2, parents: list[int], moved: Moved) -> list[list[int]]:
    """Skeletons of which any joint is turned."""
    return [g for g in _skeletons(document, parents, moved) if any(j in moved.rotation for j in g)]


def parents_of(document: GLTF2) -> list[int]:
    """The node that carries each node, -1 for none."""
    parents = [-1] * len(document.nodes)
    for index, node in enumerate(document.nodes):
        for child in node.children or []:
            parents[child] = index
    return parents


def tracks_of(document: GLTF2, animation: Any) -> Moved:
    """What an animation turns and moves; raises InputError where it contradicts itself."""
    found = Moved({}, {})
    for channel in animation.channels:
        node, path = channel.target.node, channel.target.path
        tracks = {"rotation": found.rotation, "translation": found.translation}.get(path)
        if tracks is None or not isinstance(node, int) or not 0 <= node < len(document.nodes):
            continue
        if not isinstance(channel.sampler, int) or not 0 <= channel.sampler < len(animation.samplers):
            raise InputError(f"the animation of {node_name(document, node)!r} names a sampler that is not there")
        sampler = animation.samplers[channel.sampler]
        times, values = scaled_array(document, sampler.input)[:, 0], scaled_array(document, sampler.output)
        way, width = sampler.interpolation or "LINEAR", 4 if path == "rotation" else 3
        keys = len(times) * (3 if way == "CUBICSPLINE" else 1)
        if values.shape != (keys, width) or not len(times):
            raise InputError(f"the animation of {node_name(document, node)!r} has {len(values)} values for {len(times)} moments")  # fmt: skip
        if not np.isfinite(values).all() or not np.isfinite(times).all() or (np.diff(times) < 0).any():
            raise InputError(f"the animation of {node_name(document, node)!r} goes backward in time or is not finite")
        tracks[node] = (times, values.reshape(len(times), 3, width) if way == "CUBICSPLINE" else values, way)
    return found


def _skeletons(document: GLTF2, parents: list[int], moved: Moved) -> list[list[int]]:
    """Nodes of each skeleton, parents first: joints of skins that share some with what carries them alone, else what is turned."""
    groups: list[set[int]] = []
    for joints in [set(s.joints) for s in document.skins or []] or [set(moved.rotation)]:
        if any(not isinstance(j, int) or not 0 <= j < len(document.nodes) for j in joints):
            raise InputError("a skin names a joint that is not there")
        touching = [g for g in groups if g & joints]
        groups = [g for g in groups if g not in touching] + [joints.union(*touching)]
    above = [_above(parents, group) for group in groups]
    out = []
    for number, group in enumerate(groups):
        others = set().union(*(a for n, a in enumerate(above) if n != number))
        whole = group | (above[number] - others)
        for root in sorted(j for j in whole if parents[j] not in whole):
            order = [root]
            for node in order:
                order.extend(c for c in document.nodes[node].children or [] if c in whole)
            if len(order) >= LEAST_JOINTS:
                out.append(order)
    return out


def _above(parents: list[int], group: set[int]) -> set[int]:
    found: set[int] = set()
    for node in group:
        at = parents[node]
        while at >= 0 and at not in found:
            found.add(at)
            at = parents[at]
    return found - group


def _motion(document: GLTF2, parents: list[int], order: list[int], moved: Moved, animation: Any) -> tuple[str, Motion]:
    names = tuple(node_name(document, n) for n in order)
    if len(order) > MAX_JOINTS:
        raise LimitError("the skeleton is too large", hint=f"At most {MAX_JOINTS} joints")
    if len(set(names)) != len(names):
        raise InputError(
            f"joint {next(n for n in names if names.count(n) > 1)!r} is there twice", hint="Rename one of them"
        )
    place = {node: i for i, node in enumerate(order)}
    own = Moved(
        {n: t for n, t in moved.rotation.items() if n in place},
        {n: t for n, t in moved.translation.items() if n in place},
    )
    at, rate = moments_of(own)
    nodes = [document.nodes[n] for n in order]
    rest = normalised(np.array([n.rotation or [0, 0, 0, 1] for n in nodes], np.float64))
    scales = _scales(document, parents, order)
    offsets = np.array([n.translation or [0, 0, 0] for n in nodes], np.float64) * scales
    local = np.broadcast_to(rest, (len(at), *rest.shape)).copy()
    for node, (times, values, way) in own.rotation.items():
        local[:, place[node]] = turned(times, values, way, at)
    skeleton = Skeleton(names, tuple(place.get(parents[n], -1) for n in order), offsets, rest)
    local = continuous(normalised(local))
    root = _travel(skeleton, local, {place[n]: sampled(*t, at) * scales[place[n]] for n, t in own.translation.items()})
    return names[0], Motion(skeleton, local, root, rate, noted_timecode(animation))


def moments_of(moved: Moved) -> tuple[np.ndarray, Fraction]:
    """Moments at an even rate from the first key to the last, and that rate."""
    longest = max((t[0] for t in moved.tracks), key=len)
    if len(longest) < 2:
        return longest[:1], Fraction(30)
    rate = nominal_rate(longest)
    first, last = min(t[0][0] for t in moved.tracks), max(t[0][-1] for t in moved.tracks)
    frames = round((last - first) * float(rate)) + 1
    if frames > MAX_FRAMES:
        raise LimitError(f"the motion has {frames} frames", hint=f"At most {MAX_FRAMES} are read")
    return first + np.arange(frames) / float(rate), rate


def turned(times: np.ndarray, values: np.ndarray, way: str, at: np.ndarray) -> Array:
    """Rotations at moments; keys that lie on opposite sides are brought to one first."""
    if way == "CUBICSPLINE":
        return normalised(sampled(times, values, way, at))
    return normalised(sampled(times, continuous(normalised(values)), way, at))


def _scales(document: GLTF2, parents: list[int], order: list[int]) -> Array:
    """(joints, 1) by which what is above each joint makes its offset larger."""
    out = np.ones((len(order), 1))
    for i, node in enumerate(order):
        at = parents[node]
        while at >= 0:
            scale = document.nodes[at].scale or [1, 1, 1]
            out[i] *= float(np.cbrt(np.prod(np.abs(scale))))
            at = parents[at]
    return out


def _travel(skeleton: Skeleton, local: Array, translations: dict[int, Array]) -> Array:
    """(frames, 3) by which the whole skeleton goes: what moves on the way down to where it first branches."""
    way = [0]
    while len(below := [j for j, p in enumerate(skeleton.parents) if p == way[-1]]) == 1:
        way.append(below[0])
    small = Skeleton(
        tuple(skeleton.names[j] for j in way), tuple(range(-1, len(way) - 1)), skeleton.offsets[way], skeleton.rest[way]
    )
    rotations, _ = small.pose(local[:, way], np.zeros((len(local), 3)))
    moved = np.zeros((len(local), 3))
    for step, joint in enumerate(way):
        if joint in translations:
            shift = translations[joint] - skeleton.offsets[joint]
            moved += shift if step == 0 else rotate(rotations[:, step - 1], shift)
    return moved


def noted_timecode(animation: Any) -> Timecode | None:
    """The count that our own files note of their first frame."""
    noted = (animation.extras or {}).get("dynaface", {}) if isinstance(animation.extras, dict) else {}
    try:
        return parse_timecode(str(noted["timecode"]), parse_rate(str(noted["timecodeRate"]))) if noted else None
    except (InputError, KeyError):
        return None
