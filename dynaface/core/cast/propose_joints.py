"""Proposes which way a face joint turns or shifts, from the vertices that hang on it."""

from collections.abc import Iterator, Mapping
from dataclasses import dataclass

import numpy as np

from dynaface.core.body.rotations import about, inverse, multiply, rotate
from dynaface.core.body.skeleton import Skeleton
from dynaface.core.cast.geometry import Array, Geometry
from dynaface.core.cast.joints import JointDrive
from dynaface.core.match.names import part_of
from dynaface.core.shapes.spelling import words_of

DOWN, UP, LEFT, RIGHT, AHEAD = (np.array(v, float) for v in ((0, -1, 0), (0, 1, 0), (1, 0, 0), (-1, 0, 0), (0, 0, 1)))
APART = 0.062  # metres between the eyes of the general head
# Channel -> (way, metres on the general head); a lid's own height stands for how far it must come.
_JAW = {"jawOpen": (DOWN, 0.030), "jawLeft": (LEFT, 0.010), "jawRight": (RIGHT, 0.010), "jawForward": (AHEAD, 0.008)}
_UPPER, _LOWER = (("eyeBlink", DOWN, 0.75), ("eyeWide", UP, 0.2)), (("eyeBlink", UP, 0.25), ("eyeSquint", UP, 0.3))
_BROW = (("browDown", DOWN, 0.007), ("browOuterUp", UP, 0.009))
_UNDER = {"lower", "low", "bottom", "under"}
_SIDES = {"l", "left", "r", "right"}
STRAIGHT = 0.6  # how well a turn must point the wanted way
LEVER = 0.25  # how far the middle of what hangs on a joint must be from it, as a share of its size, for a turn
RIM = 0.15  # the share of it that lies farthest the wanted way is what is watched
JAW_MOST = 30.0  # degrees: no jaw opens further
SWEEP = np.arange(0.5, 120.5, 0.5)  # degrees that are tried
_JAW_WORDS, _LID_WORDS, _BROW_WORDS = (
    {"jaw", "chin", "mandible"},
    {"lid", "eyelid", "lids"},
    {"brow", "eyebrow", "brows"},
)


@dataclass(frozen=True)
class Tried:
    """What hangs on a joint: points: (n, 3) metres from it, with weight (n,) summing to 1; rest: (4,) its rotation."""

    points: Array
    weight: Array
    rest: Array

    @property
    def lever(self) -> float:
        """How far the middle is from the joint, as a share of its size."""
        return float(np.linalg.norm(self.weight @ self.points)) / max(float(np.ptp(self.points, axis=0).max()), 1e-9)

    def rim(self, way: Array) -> Array:
        """(m, 3) of what lies farthest that way, to the front, in its middle: a shell tapers to its ends."""
        across = self.points[:, 0 if abs(way[0]) < 0.5 else 1]
        middle = self.points[np.abs(across - np.median(across)) <= 0.35 * np.ptp(across) / 2]
        middle = middle if len(middle) else self.points
        along = middle @ way + 0.4 * middle[:, 2]
        return middle[along >= np.quantile(along, 1 - RIM)]

    def turned(self, axis: int, degrees: float, points: Array) -> Array:
        """(m, 3) by which points go when the joint turns about one of its own axes."""
        turn = multiply(multiply(self.rest, about("xyz"[axis], degrees)), inverse(self.rest))
        return np.asarray(rotate(turn, points) - points)


def try_joint(skeleton: Skeleton, geometry: Geometry, joint: str) -> Tried | None:
    """What hangs on a joint; None where nothing does."""
    index = skeleton.index(joint)
    rotations, positions = skeleton.global_rest()
    below = [n for i, n in enumerate(skeleton.names) if _hangs(skeleton, i, index)]
    points, held = [np.zeros((0, 3))], [np.zeros(0)]
    for mesh in geometry.meshes:
        weight = sum((mesh.held[n] for n in below if n in mesh.held), np.zeros(len(mesh.points)))
        some = weight > 0.02
        points.append(mesh.points[some])
        held.append(weight[some])
    at, weight = np.concatenate(points), np.concatenate(held)
    return Tried(at - positions[index], weight / weight.sum(), rotations[index]) if len(at) else None


def _hangs(skeleton: Skeleton, joint: int, on: int) -> bool:
    while joint > on:
        joint = skeleton.parents[joint]
    return joint == on


def aim(tried: Tried, way: Array, metres: float, key: str, watch: Array | None = None) -> JointDrive:
    """A drive that takes what hangs on the joint along `way` (3,) by metres: a turn where one points there, else a shift.

    watch: (3,) which rim of it is watched, by default the one that lies that way.
    """
    joint, _, channel = key.rpartition(":")
    rim = tried.rim(way if watch is None else watch)
    steps = [tried.turned(axis, sign, rim).mean(axis=0) for axis in range(3) for sign in (1.0, -1.0)]
    straight = [
        float(s @ way) / max(float(np.linalg.norm(s)), 1e-12) if np.linalg.norm(s) > 1e-9 else 0.0 for s in steps
    ]
    # Of turns that point alike, the one that carries it farthest.
    best = int(np.argmax([s @ way if p > STRAIGHT else -1.0 for s, p in zip(steps, straight, strict=True)]))
    # A jaw that comes forward slides; a turn would open it as well.
    if straight[best] > STRAIGHT and tried.lever > LEVER and channel != "jawForward":
        axis, sign = best // 2, 1.0 if best % 2 == 0 else -1.0
        gone = [float(tried.turned(axis, sign * d, rim).mean(axis=0) @ way) for d in SWEEP]
        reached = next((i for i, g in enumerate(gone) if g >= metres), int(np.argmax(gone)))
        unit = np.zeros(3)
        unit[axis] = sign
        most = min(float(SWEEP[reached]), JAW_MOST if channel.startswith("jaw") else float(SWEEP[-1]))
        return JointDrive(joint, channel, "turn", _tuple(unit), most)
    return JointDrive(joint, channel, "shift", _tuple(rotate(inverse(tried.rest), way)), round(metres, 5))


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
        gap = _lid_gap(skeleton, geometry, joint)
        for channel, way, far, own in wishes:
            # Lids go their part of the way between them; everything else goes as far as on a face of this size.
            metres = far * (gap if gap else float(np.ptp(tried.points, axis=0) @ np.abs(way))) if own else far * scale
            out[f"{joint}:{channel}"] = aim(tried, way, metres, f"{joint}:{channel}", _watched(joint, way))
    return out


def _lid_gap(skeleton: Skeleton, geometry: Geometry, joint: str) -> float:
    """Metres from the rim of the upper lid to that of the lower, where a side has both; else 0."""
    words = set(words_of(joint))
    if not words & _LID_WORDS:
        return 0.0
    rims = {}
    for name in skeleton.names:
        bag = set(words_of(name))
        if bag & _LID_WORDS and bag & _SIDES == words & _SIDES:
            tried = try_joint(skeleton, geometry, name)
            if tried is not None:
                under = bool(bag & _UNDER)
                place = skeleton.global_rest()[1][skeleton.index(name)]
                rims[under] = float((tried.rim(UP if under else DOWN) + place)[:, 1].mean())
    return max(rims[False] - rims[True], 0.0) if len(rims) == 2 else 0.0


def _watched(joint: str, way: Array) -> Array:
    """An upper lid is watched at its lower rim and the other way round, a jaw at the chin."""
    words = set(words_of(joint))
    if words & _LID_WORDS:
        return UP if words & _UNDER else DOWN
    return DOWN if words & _JAW_WORDS else way


def _wishes(joint: str) -> Iterator[tuple[str, Array, float, bool]]:
    """(channel, way, how far, whether that is of its own height) of a joint by its name."""
    words = words_of(joint.rsplit(":", 1)[-1])
    side = next((s for s, ws in (("Left", ("l", "left")), ("Right", ("r", "right"))) if set(ws) & set(words)), "")
    bag = set(words)
    if bag & _JAW_WORDS and not side:
        for channel, (way, metres) in _JAW.items():
            yield channel, way, metres, False
    elif bag & _LID_WORDS and side:
        for stem, way, part in _LOWER if bag & _UNDER else _UPPER:
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
    """words -> (3,) direction of length 1: the ways that "Try it" offers."""
    return {"down": DOWN, "up": UP, "to its left": LEFT, "to its right": RIGHT, "ahead": AHEAD, "back": -AHEAD}
