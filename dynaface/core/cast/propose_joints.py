"""Proposes which way a face joint turns or shifts, from the vertices that hang on it."""

from collections.abc import Iterator, Mapping
from dataclasses import dataclass

import numpy as np

from dynaface.core.body.match import part_of
from dynaface.core.body.rotations import rotate
from dynaface.core.body.skeleton import Skeleton
from dynaface.core.cast.geometry import Array, Geometry
from dynaface.core.cast.joints import JointDrive
from dynaface.core.shapes.spelling import words_of

DOWN, UP, LEFT, RIGHT, AHEAD = (np.array(v, float) for v in ((0, -1, 0), (0, 1, 0), (1, 0, 0), (-1, 0, 0), (0, 0, 1)))
APART = 0.062  # metres between the eyes of the general head
# Channel -> (way, metres on the general head); a lid's own height stands for how far it must come.
_JAW = {"jawOpen": (DOWN, 0.030), "jawLeft": (LEFT, 0.010), "jawRight": (RIGHT, 0.010), "jawForward": (AHEAD, 0.008)}
_UPPER, _LOWER, _BROW = (("eyeBlink", DOWN, 1.0), ("eyeWide", UP, 0.3)), (("eyeBlink", UP, 0.35), ("eyeSquint", UP, 0.5)), (
    ("browDown", DOWN, 0.007), ("browOuterUp", UP, 0.009))  # fmt: skip
STRAIGHT, LEVER = 0.6, 0.35  # how well a turn must point the wanted way, and its lever as a share of what hangs on it
_JAW_WORDS, _LID_WORDS, _BROW_WORDS = {"jaw", "chin", "mandible"}, {"lid", "eyelid", "lids"}, {"brow", "eyebrow", "brows"}


@dataclass(frozen=True)
class Tried:
    """What hangs on a joint: metres (3,) by which its middle goes for a turn of one degree about each of the joint's own
    axes x, y, z (rows); lever: metres from the joint to what hangs on it; extent: (3,) of that; rest: its rotation at rest.
    """

    turned: Array
    lever: float
    extent: Array
    rest: Array


def try_joint(skeleton: Skeleton, geometry: Geometry, joint: str) -> Tried | None:
    """Turns a joint a little about each of its axes; None where nothing hangs on it."""
    index = skeleton.index(joint)
    rotations, positions = skeleton.global_rest()
    below = [n for i, n in enumerate(skeleton.names) if _hangs(skeleton, i, index)]
    points, held = [], []
    for mesh in geometry.meshes:
        weight = sum((mesh.held[n] for n in below if n in mesh.held), np.zeros(len(mesh.points)))
        some = weight > 0.02
        points.append(mesh.points[some])
        held.append(weight[some])
    at, weight = np.concatenate(points) if points else np.zeros((0, 3)), np.concatenate(held) if held else np.zeros(0)
    if not len(at):
        return None
    share = weight / weight.sum()
    arm = at - positions[index]
    axes = rotate(rotations[index], np.eye(3))
    turned = np.array([np.radians(1) * share @ np.cross(axis, arm) for axis in axes])
    lever = float(share @ np.linalg.norm(arm, axis=1))
    return Tried(turned, lever, np.ptp(at, axis=0), rotations[index])


def _hangs(skeleton: Skeleton, joint: int, on: int) -> bool:
    while joint > on:
        joint = skeleton.parents[joint]
    return joint == on


def aim(tried: Tried, way: Array, metres: float, key: str) -> JointDrive:
    """A drive that takes what hangs on the joint along `way` (3,) by metres: a turn where one points there, else a shift."""
    joint, _, channel = key.rpartition(":")
    along = tried.turned @ way
    best = int(np.argmax(np.abs(along)))
    length = float(np.linalg.norm(tried.turned[best]))
    straight = abs(float(along[best])) / length if length > 1e-12 else 0.0
    if straight > STRAIGHT and tried.lever > LEVER * float(tried.extent.max()):
        axis = np.zeros(3)
        axis[best] = np.sign(along[best])
        degrees = min(metres / abs(float(along[best])), 80.0)
        return JointDrive(joint, channel, "turn", _tuple(axis), round(degrees, 2))
    back = np.array([-1.0, -1.0, -1.0, 1.0]) * tried.rest
    return JointDrive(joint, channel, "shift", _tuple(rotate(back, way)), round(metres, 5))


def _tuple(axis: Array) -> tuple[float, float, float]:
    x, y, z = (round(float(v), 6) + 0.0 for v in axis)
    return x, y, z


def propose_drives(skeleton: Skeleton | None, geometry: Geometry, driven: set[str]) -> dict[str, JointDrive]:
    """Drives by "joint:channel" for jaw, lid and brow joints; channels that targets already carry are left alone."""
    if skeleton is None:
        return {}
    scale = _scale(skeleton, geometry)
    out: dict[str, JointDrive] = {}
    for joint in skeleton.names:
        wishes = [w for w in _wishes(joint) if w[0] not in driven]
        tried = try_joint(skeleton, geometry, joint) if wishes else None
        if tried is None:
            continue
        for channel, way, far, own in wishes:
            # A lid must come as far as it is tall; everything else goes as far as on a face of this size.
            metres = far * float(tried.extent @ np.abs(way)) if own else far * scale
            out[f"{joint}:{channel}"] = aim(tried, way, metres, f"{joint}:{channel}")
    return out


def _wishes(joint: str) -> Iterator[tuple[str, Array, float, bool]]:
    """(channel, way, how far, whether that is of its own height) of a joint by its name."""
    words = words_of(joint.rsplit(":", 1)[-1])
    side = next((s for s, ws in (("Left", ("l", "left")), ("Right", ("r", "right"))) if set(ws) & set(words)), "")
    bag = set(words)
    if bag & _JAW_WORDS and not side:
        for channel, (way, metres) in _JAW.items():
            yield channel, way, metres, False
    elif bag & _LID_WORDS and side:
        for stem, way, part in _LOWER if bag & {"lower", "low", "bottom", "under"} else _UPPER:
            yield stem + side, way, part, True
    elif bag & _BROW_WORDS and side:
        for stem, way, metres in _BROW:
            yield stem + side, way, metres, False
        if not bag & {"outer"}:
            yield "browInnerUp", UP, 0.008, False


def _scale(skeleton: Skeleton, geometry: Geometry) -> float:
    """The face's size against the general head's: by the eyes' distance, else by what the head is wide."""
    eyes = {f[1]: i for i, n in enumerate(skeleton.names) if (f := part_of(n)) is not None and f[0] == "eye" and f[1]}
    if {"L", "R"} <= eyes.keys():
        _, positions = skeleton.global_rest()
        return float(np.linalg.norm(positions[eyes["L"]] - positions[eyes["R"]])) / APART
    return float(geometry.size.max()) / 1.7 if geometry.meshes else 1.0


def named_ways() -> Mapping[str, Array]:
    """The ways that "Try it" offers, by words."""
    return {"down": DOWN, "up": UP, "to its left": LEFT, "to its right": RIGHT, "ahead": AHEAD, "back": -AHEAD}
