"""What the animations of a glTF say, for what was handed over and comes back."""

from collections import defaultdict
from collections.abc import Iterable, Mapping
from fractions import Fraction
from typing import Any

import numpy as np
from pygltflib import GLTF2

from dynaface.core.body.rotations import continuous, normalised
from dynaface.core.clock.rates import parse_rate
from dynaface.core.errors import InputError
from dynaface.core.returns.brought import Brought
from dynaface.core.returns.moments import even_moments
from dynaface.formats.gltf.bodies import Moved, Track, parents_of, tracks_of, turned
from dynaface.formats.gltf.clips import curves_of
from dynaface.formats.gltf.document import open_glb
from dynaface.formats.gltf.names import node_name, target_names
from dynaface.formats.gltf.sampled import sampled

Curve = tuple[np.ndarray, np.ndarray, str]


def read_brought(data: bytes, near: Fraction) -> dict[str, Brought]:
    """name -> character, by the topmost nodes where there are several skeletons, else under ""; raises InputError where nothing is animated.
    near: the rate that it was handed over at, where the file does not say. Animations count together: some programs write one for each object.
    """
    document = open_glb(data)
    parents = parents_of(document)
    moved, curves = Moved({}, {}), dict[tuple[int, str], Curve]()
    for animation in document.animations or []:
        near = _noted_rate(animation) or near
        found = tracks_of(document, animation)
        moved = Moved({**found.rotation, **moved.rotation}, {**found.translation, **moved.translation})
        for node, target, times, values, way in curves_of(document, animation):
            curves.setdefault((node, target), (times, values, way))
    if not moved.tracks and not curves:
        raise InputError("nothing is animated in this file", hint="Export the animation with the character")
    at, rate = even_moments([t[0] for t in moved.tracks] + [t for t, _, _ in curves.values()], near)
    joints = _joints(document, parents, moved)
    top = {n: _top(parents, n) for n in range(len(document.nodes))}
    skinned = {top[j] for s in document.skins or [] for j in s.joints}
    groups = sorted(skinned) if len(skinned) > 1 else [None]
    out = {}
    for group in groups:
        own = [j for j in joints if group is None or top[j] == group]
        meshes = [n for n, node in enumerate(document.nodes) if node.mesh is not None and group in (None, top[n])]
        name = "" if group is None else node_name(document, group)
        out[name] = _character(document, parents, own, meshes, moved, curves, at, rate)
    return out


def _noted_rate(animation: Any) -> Fraction | None:
    """The rate that our own files note, which programs keep or drop."""
    noted = (animation.extras or {}).get("dynaface", {}) if isinstance(animation.extras, dict) else {}
    try:
        return parse_rate(str(noted["rate"]))
    except (InputError, KeyError, TypeError):
        return None


def _top(parents: list[int], node: int) -> int:
    seen = set()
    while parents[node] >= 0 and node not in seen:
        seen.add(node)
        node = parents[node]
    return node


def _joints(document: GLTF2, parents: list[int], moved: Moved) -> list[int]:
    """Nodes that are joints, are moved, or carry one of these; those above first."""
    wanted: set[int] = set()
    known = range(len(document.nodes))
    for node in [*(j for s in document.skins or [] for j in s.joints), *moved.rotation, *moved.translation]:
        at = node
        while at in known and at not in wanted:
            wanted.add(at)
            at = parents[at]
    order = [n for n in sorted(wanted) if parents[n] < 0]
    for node in order:
        order.extend(c for c in document.nodes[node].children or [] if c in wanted and c not in order)
    return order


def _character(document: GLTF2, parents: list[int], joints: Iterable[int], meshes: Iterable[int], moved: Moved,
               curves: Mapping[tuple[int, str], Curve], at: np.ndarray, rate: Fraction) -> Brought:  # fmt: skip
    turns, places, above, names = {}, {}, {}, {}
    scale: defaultdict[int, float] = defaultdict(lambda: 1.0)
    rest = {}
    for node in joints:
        own, parent = document.nodes[node], parents[node]
        names[node] = name = node_name(document, node)
        if name in turns:
            raise InputError(f"two joints are named {name!r}", hint="Rename one of them")
        turn = normalised(np.array(own.rotation or [0, 0, 0, 1], np.float64))
        place = np.array(own.translation or [0, 0, 0], np.float64)
        rest[name] = turn
        turns[name] = _turns(moved.rotation.get(node), turn, at)
        places[name] = _places(moved.translation.get(node), place, at) * scale[parent]
        scale[node] = scale[parent] * float(np.cbrt(np.prod(np.abs(own.scale or [1, 1, 1]))))
        if parent in names:
            above[name] = names[parent]
    return Brought(len(at), rate, _weights(document, meshes, curves, at), turns, places, above, rest=rest)


def _turns(track: Track | None, rest: np.ndarray, at: np.ndarray) -> np.ndarray:
    return np.tile(rest, (len(at), 1)) if track is None else continuous(turned(*track, at))


def _places(track: Track | None, rest: np.ndarray, at: np.ndarray) -> np.ndarray:
    return np.tile(rest, (len(at), 1)) if track is None else np.asarray(sampled(*track, at), np.float64)


def _weights(document: GLTF2, meshes: Iterable[int], curves: Mapping[tuple[int, str], Curve], at: np.ndarray) -> dict[str, np.ndarray]:  # fmt: skip
    """target -> (moments,) the strongest of the meshes that have it: on some it is still because a joint turns them instead."""
    out: dict[str, np.ndarray] = {}
    for node in meshes:
        mesh = document.nodes[node].mesh
        usual = document.meshes[mesh].weights or []
        for number, target in enumerate(target_names(document, mesh)):
            if (node, target) in curves:
                own = np.asarray(sampled(*curves[(node, target)], at), np.float64)
            else:
                own = np.full(len(at), float(usual[number]) if number < len(usual) else 0.0)
            was = out.get(target)
            out[target] = own if was is None else np.where(np.abs(own) > np.abs(was), own, was)
    return out
