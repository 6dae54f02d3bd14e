"""Walks with planned footsteps: a body that stands, walks and jumps, and the exact frames in which heels and toes stand on the ground.

The legs are laid by their own trigonometry along feet that are planned first, so that nothing of what looks for contacts goes in.
"""

from collections.abc import Mapping
from dataclasses import dataclass, replace
from fractions import Fraction

import numpy as np
from scipy.ndimage import gaussian_filter1d

from dynaface.core.body.rotations import IDENTITY, Array, about, inverse, multiply, normalised, rotate
from dynaface.core.body.skeleton import Motion
from dynaface.sims.body_suit import skeleton

ANKLE, BACK, AHEAD, TOE = (
    0.08,
    0.045,
    0.13,
    0.02,
)  # metres: height of the ankle, heel behind it, toe joint before it and its height
THIGH, SHIN, HIP = 0.41, 0.42, (0.09, -0.02)  # of the suit's legs; the hip joint beside and below the hips
HIPS = np.array([0.0, 0.93, 0.0])  # metres of the suit's hips at rest
STRIKE, PUSH = 16.0, 34.0  # degrees of the foot where its heel comes down, and where its toe leaves
WIDE = 0.095  # metres from the middle to a foot


@dataclass(frozen=True)
class Stance:
    """A foot on the ground from one second to another, flat in between. at: (x, z) metres of the ankle while it is flat; struck: whether it
    comes down with its heel; pushed: whether it leaves by its toe.
    """

    first: float
    last: float
    at: tuple[float, float]
    struck: bool
    pushed: bool

    @property
    def flat(self) -> tuple[float, float]:
        """Seconds between which heel and toe both stand."""
        length = min(self.last - self.first, 1.0)
        return self.first + 0.16 * length * self.struck, self.last - 0.34 * length * self.pushed


@dataclass(frozen=True)
class Walk:
    """motion: what a perfect suit would write; spans: "heelLeft", "toeLeft", "footLeft" and so on -> (first, last) frames on the ground."""

    motion: Motion
    spans: Mapping[str, list[tuple[int, int]]]


def walk(rate: int, seed: int) -> Walk:
    """About ten seconds of standing, walking and jumping as the seed has it, looking somewhere."""
    rng = np.random.default_rng(seed)
    stances, seconds, jumps = _planned(rng)
    times = np.arange(int(seconds * rate)) / rate
    feet = {side: foot_path(stances[side], times) for side in ("Left", "Right")}
    heading = rng.uniform(-180, 180)
    middle = np.mean(
        [gaussian_filter1d(feet[s][0][:, [0, 2]], 0.16 * rate, axis=0, mode="nearest") for s in feet], axis=0
    )
    hips = np.stack([0.35 * middle[:, 0], np.full(len(times), 0.86), middle[:, 1] + 0.01], axis=1)
    hips[:, 1] += (
        _jumped(times, jumps)
        - 0.012 * gaussian_filter1d(rng.normal(0, 1, len(times)), 0.2 * rate) * np.sqrt(rate) * 0.5
    )
    motion = _laid(hips, feet, rate)
    spans: dict[str, list[tuple[int, int]]] = {}
    for side, held in stances.items():
        spans[f"heel{side}"] = _frames([(s.first, s.flat[1] if s.pushed else s.last) for s in held], rate)
        spans[f"toe{side}"] = _frames([(s.flat[0] if s.struck else s.first, s.last) for s in held], rate)
        spans[f"foot{side}"] = _frames([(s.first, s.last) for s in held], rate)
    spans = {place: [(first, min(last, len(times) - 1)) for first, last in found] for place, found in spans.items()}
    return Walk(_turned(motion, heading), spans)


def spoilt(motion: Motion, noise: float, jitter: float, drift: float, seed: int) -> Motion:
    """What a real suit writes. noise: degrees on each joint, jitter: metres on the root, each a little slow; drift: share by which the way
    on the ground comes out too long.
    """
    rng = np.random.default_rng(seed)
    shape = (motion.frames, len(motion.skeleton.names), 3)
    turns = gaussian_filter1d(rng.normal(0, 1, shape), 1.2, axis=0)
    turns *= noise / turns.std()
    local = motion.local
    for axis, degrees in zip("xyz", np.moveaxis(turns, -1, 0), strict=True):
        local = multiply(local, about(axis, degrees))
    shake = gaussian_filter1d(rng.normal(0, 1, (motion.frames, 3)), 2, axis=0)
    root = motion.root + shake * (jitter / shake.std())
    root = root + (motion.root - motion.root[0]) * np.array([drift, 0, drift])
    return replace(motion, local=normalised(local), root=root)


def _planned(rng: np.random.Generator) -> tuple[dict[str, list[Stance]], float, list[tuple[float, float, float]]]:
    """Stances of each foot, seconds in all, jumps (leave, land, height)."""
    stances: dict[str, list[Stance]] = {"Left": [], "Right": []}
    sides, z, now = {"Left": WIDE, "Right": -WIDE}, {"Left": 0.0, "Right": 0.0}, 0.0
    since = {"Left": (0.0, False), "Right": (0.0, False)}  # when a foot came down, and whether heel first
    jumps = []

    def lift(side: str, at: float, pushed: bool) -> None:
        first, struck = since[side]
        stances[side].append(Stance(first, at, (sides[side], z[side]), struck, pushed))

    for act in ("walk", "jump", "walk"):
        now += rng.uniform(0.6, 1.3)
        if act == "jump":
            if rng.uniform() < 0.6:
                flight = rng.uniform(0.28, 0.42)
                ahead = rng.uniform(0.0, 0.25)
                for side in sides:
                    lift(side, now, True)
                    z[side] = max(z.values()) + (ahead if side == "Left" else 0.0)
                    since[side] = (now + flight, False)
                z["Right"] = z["Left"]
                jumps.append((now, now + flight, 9.81 * flight**2 / 8))
                now += flight
            continue
        steps, beat, stride = int(rng.integers(3, 7)), rng.uniform(0.46, 0.62), rng.uniform(0.3, 0.46)
        side = "Left" if rng.uniform() < 0.5 else "Right"
        front = max(z.values())
        for number in range(steps):
            swing = beat * rng.uniform(0.68, 0.8)
            front += stride * (0.5 if number in (0, steps - 1) else 1.0)
            lift(side, now, True)
            since[side], z[side] = (now + swing, number < steps - 1), front
            now += beat
            side = "Right" if side == "Left" else "Left"
    now += rng.uniform(0.6, 1.0)
    for side in sides:
        lift(side, now + 1, False)
    return stances, now, jumps


def _frames(spans: list[tuple[float, float]], rate: int) -> list[tuple[int, int]]:
    return [(int(np.ceil(first * rate - 1e-9)), int(np.floor(last * rate + 1e-9))) for first, last in spans]


def _ease(part: Array) -> Array:
    part = np.clip(part, 0, 1)
    return part**3 * (10 - 15 * part + 6 * part**2)


def _standing(stance: Stance, times: Array) -> tuple[Array, Array]:
    """(ankle (n, 3), degrees by which the toe is up) at moments of a stance."""
    down, up = stance.flat
    pitch = np.zeros(len(times))
    if stance.struck:
        pitch += STRIKE * (1 - _ease((times - stance.first) / (down - stance.first)))
    if stance.pushed:
        pitch -= PUSH * np.clip((times - up) / (stance.last - up), 0, 1) ** 2
    ankle = np.empty((len(times), 3))
    ankle[:, 0] = stance.at[0]
    c, s = np.cos(np.radians(pitch)), np.sin(np.radians(pitch))
    heel = pitch >= 0
    # Toe up: about the heel on the ground; toe down: about the toe joint.
    ankle[:, 1] = np.where(heel, ANKLE * c + BACK * s, TOE + (ANKLE - TOE) * c - AHEAD * s)
    ankle[:, 2] = stance.at[1] + np.where(heel, -BACK + BACK * c - ANKLE * s, AHEAD - AHEAD * c - (ANKLE - TOE) * s)
    return ankle, pitch


def foot_path(stances: list[Stance], times: Array) -> tuple[Array, Array]:
    """(ankle (frames, 3) metres, degrees by which the toe is up) of a foot that stands as planned."""
    ankle, pitch = np.zeros((len(times), 3)), np.zeros(len(times))
    for stance in stances:
        own = (times >= stance.first) & (times <= stance.last)
        ankle[own], pitch[own] = _standing(stance, times[own])
    for before, after in zip(stances, stances[1:], strict=False):
        own = (times > before.last) & (times < after.first)
        part = (times[own] - before.last) / (after.first - before.last)
        (a, p), (b, q) = _standing(before, np.array([before.last])), _standing(after, np.array([after.first]))
        share = _ease(part)[:, None]
        ankle[own] = a + (b - a) * share
        ankle[own, 1] += 0.07 * np.sin(np.pi * part) ** 2
        pitch[own] = p + (q - p) * share[:, 0]
    return ankle, pitch


def _jumped(times: Array, jumps: list[tuple[float, float, float]]) -> Array:
    """(frames,) metres that the hips rise, with bent knees before and after."""
    out = np.zeros(len(times))
    for leave, land, height in jumps:
        part = np.clip((times - leave) / (land - leave), 0, 1)
        out += 4 * height * part * (1 - part)
        for at in (leave - 0.18, land + 0.12):
            out -= 0.09 * np.exp(-(((times - at) / 0.09) ** 2))
    return out


def _laid(hips: Array, feet: Mapping[str, tuple[Array, Array]], rate: int) -> Motion:
    """The suit with its hips and feet there, looking along +z, knees to the front."""
    suit = skeleton()
    at = {n: i for i, n in enumerate(suit.names)}
    local = np.tile(IDENTITY, (len(hips), len(suit.names), 1))
    airborne = np.minimum(*(f[0][:, 1] for f in feet.values()))
    lift = np.maximum(hips[:, 1] + HIP[1] - 0.82 - airborne, 0)[:, None] * np.array([0.0, 1.0, 0.0])
    lay_legs(local, hips, {side: (ankle + lift, pitch) for side, (ankle, pitch) in feet.items()})
    for end, sign in (("_L", 1.0), ("_R", -1.0)):
        local[:, at["UpperArm" + end]] = about("z", np.full(len(hips), -sign * 72.0))
    return Motion(suit, local, hips - HIPS, Fraction(rate))


def lay_legs(local: Array, hips: Array, feet: Mapping[str, tuple[Array, Array]]) -> None:
    """Turns the legs of the suit in place so that its feet are there. local: (frames, joints, 4), of which the hips' own turn counts; hips:
    (frames, 3) metres; feet: side -> (ankle (frames, 3) metres, degrees by which the toe is up), which look along +z.
    """
    at = {n: i for i, n in enumerate(skeleton().names)}
    base = local[:, at["Hips"]]
    for side, sign in (("Left", 1.0), ("Right", -1.0)):
        ankle, pitch = feet[side]
        end = "_L" if side == "Left" else "_R"
        hip = hips + rotate(base, np.broadcast_to([sign * HIP[0], HIP[1], 0.0], hips.shape))
        reach = rotate(inverse(base), ankle - hip)
        far = np.clip(np.linalg.norm(reach, axis=1), 0.2, (THIGH + SHIN) * 0.9995)
        bend = np.pi - np.arccos(np.clip((THIGH**2 + SHIN**2 - far**2) / (2 * THIGH * SHIN), -1, 1))
        ahead = np.arccos(np.clip((THIGH**2 + far**2 - SHIN**2) / (2 * THIGH * far), -1, 1))
        lean = np.arctan2(reach[:, 2], -reach[:, 1]) + ahead  # of the thigh, to the front
        aside = np.arctan2(reach[:, 0], -reach[:, 1])
        thigh = multiply(about("z", np.degrees(aside)), about("x", -np.degrees(lean)))
        shin = multiply(thigh, about("x", np.degrees(bend)))
        local[:, at["UpLeg" + end]] = thigh
        local[:, at["LowLeg" + end]] = about("x", np.degrees(bend))
        local[:, at["Foot" + end]] = multiply(inverse(multiply(base, shin)), about("x", -pitch))


def _turned(motion: Motion, degrees: float) -> Motion:
    local, heading = motion.local.copy(), about("y", degrees)
    local[:, 0] = multiply(heading, local[:, 0])
    return replace(motion, local=local, root=rotate(heading, motion.root))
