"""Skeletons of many makes: a body's joints laid out, posed, scaled and named as files have them, with what each joint truly is.

Truth is a word a joint: "spine 2", "L upperarm", "R finger 3 1" (finger 1 is the thumb; its last number counts from the knuckle, 0 is a
metacarpal), "L twist upperarm 1", "L tip", or "" for what is no part of a body.
"""

from dataclasses import dataclass

import numpy as np

from dynaface.core.body.rotations import IDENTITY, Array, about, inverse, multiply, normalised, rotate
from dynaface.core.body.skeleton import Skeleton
from dynaface.sims.joint_names import NAMINGS


@dataclass(frozen=True)
class Build:
    """What a make of skeleton has. arms: degrees by which they hang from level; curl: degrees of each finger joint; thumb: whether it lies
    along the hand; digits: which fingers there are; phalanges: joints of each; twists: "", "beside" or "between"; turned: degrees about
    up; unit: units a metre; own_axes: whether joints have axes of their own at rest; uneven: share by which joints are off; laden: with hair, a coat,
    a bag and a tool that are no part of the body; naming: of `NAMINGS`.
    """

    make: str
    naming: str
    spine: int = 3
    neck: int = 1
    arms: float = 0.0
    curl: float = 3.0
    thumb: bool = False
    digits: tuple[int, ...] = (1, 2, 3, 4, 5)
    phalanges: int = 3
    metacarpals: bool = False
    tips: bool = False
    twists: str = ""
    collars: bool = True
    toes: bool = True
    ground_root: bool = False
    pelvis: bool = False
    z_up: bool = False
    turned: float = 0.0
    unit: float = 1.0
    own_axes: bool = False
    uneven: float = 0.0
    stocky: float = 0.0
    laden: bool = False
    legs: bool = True


BUILDS = (
    Build("suit", "plain"),
    Build("prefixed", "prefixed", spine=4, neck=2, metacarpals=True, own_axes=True),
    Build("numbered", "numbers", spine=5, arms=45),
    Build("numbered, arms down", "numbers", neck=3, arms=78, curl=12),
    Build("seven of the spine", "plain", spine=7, twists="beside", tips=True, own_axes=True),
    Build("misleading fingers", "misleading", spine=4, metacarpals=True),
    Build("four digits", "snake", digits=(1, 2, 3, 4), arms=40),
    Build("Z up, centimetres", "prefixed", z_up=True, unit=100, tips=True),
    Build("hundredths", "snake", unit=0.01, neck=2, phalanges=2, own_axes=True),
    Build("hundredfold", "spoken", unit=100, tips=True, spine=5, turned=90, ground_root=True),
    Build("pelvis of its own", "snake", pelvis=True, ground_root=True, arms=30),
    Build("twists between", "numbers", twists="between", phalanges=4, spine=6, neck=2),
    Build("another language", "other", arms=70, stocky=0.35, metacarpals=True),
    Build("curled", "plain", curl=28, thumb=True, arms=55, uneven=0.01),
    Build("bare", "snake", digits=(), toes=False, collars=False),
    Build("laden", "plain", laden=True, arms=35, tips=True),
    Build("laden, numbered", "numbers", laden=True, arms=60, neck=2, spine=4),
    Build("no legs", "snake", legs=False, spine=4, arms=20),
    Build("names of others", "swapped", spine=4, neck=2, tips=True, twists="beside"),
)  # fmt: skip


@dataclass(frozen=True)
class Made:
    """A skeleton and what each joint truly is."""

    skeleton: Skeleton
    truth: tuple[str, ...]


class _Rows:
    """Joints as they are laid: truth, parent, place in metres (left +x, up +y, forward +z)."""

    def __init__(self) -> None:
        self.truth: list[str] = []
        self.parents: list[int] = []
        self.at: list[Array] = []

    def add(self, truth: str, parent: int, x: float, y: float, z: float) -> int:
        self.truth.append(truth)
        self.parents.append(parent)
        self.at.append(np.array([x, y, z], float))
        return len(self.truth) - 1

    def turn(self, joint: int, q: Array) -> None:
        """Turns all that hangs on a joint about it."""
        inside = {joint}
        for other in range(joint + 1, len(self.at)):
            if self.parents[other] in inside:
                inside.add(other)
                self.at[other] = self.at[joint] + rotate(q, self.at[other] - self.at[joint])


def make(build: Build, seed: int, naming: str = "") -> Made:
    """A skeleton of a make; seed: proportions, unevenness, axes and names differ by it; naming: another than the make's own."""
    rng = np.random.default_rng(seed)
    rows = _Rows()
    root = rows.add("root", -1, 0, 0, 0) if build.ground_root else -1
    legs = 0.86 * rng.uniform(0.94, 1.06) * (1 - 0.5 * build.stocky)
    hips = rows.add("hips", root, 0, legs + 0.07, 0)
    chest_height = _trunk(rows, build, hips, rng)
    chest = len(rows.at) - 1
    _head(rows, build, chest, chest_height, rng)
    pelvis = rows.add("pelvis", hips, 0, legs + 0.05, 0) if build.pelvis else hips
    for side, sign in (("L", 1), ("R", -1)):
        _arm(rows, build, chest, chest_height, side, sign, np.random.default_rng(seed + 1))
        if build.legs:
            _leg(rows, build, pelvis, legs, side, sign, np.random.default_rng(seed + 2))
    if build.laden:
        _load(rows, hips, chest)
    return _named(build, naming or build.naming, rows, rng)


def _trunk(rows: _Rows, build: Build, hips: int, rng: np.random.Generator) -> float:
    height = float(rows.at[hips][1])
    long = 0.36 * rng.uniform(0.93, 1.07)
    below = hips
    for number in range(1, build.spine + 1):
        part = 0.2 + 0.8 * number / build.spine
        below = rows.add(f"spine {number}", below, 0, height + part * long, -0.015 * np.sin(np.pi * part))
    return height + long


def _head(rows: _Rows, build: Build, chest: int, height: float, rng: np.random.Generator) -> None:
    base, neck = height + 0.19, 0.1 * rng.uniform(0.9, 1.1)
    below = chest
    for number in range(build.neck):
        below = rows.add(f"neck {number + 1}", below, 0, base + number * neck / build.neck, 0.012 * number / build.neck)
    head = rows.add("head", below, 0, base + neck, 0.015)
    if build.tips:
        rows.add("tip", head, 0, base + neck + 0.18 + 0.1 * build.stocky, 0.02)


def _limb(rows: _Rows, build: Build, truth: str, side: str, parent: int, start: Array, end: Array) -> tuple[int, int]:
    """A long bone with its twists: (the joint on which the next one hangs, its own index)."""
    own = rows.add(f"{side} {truth}", parent, *start)
    hung = own
    if build.twists:
        for number in (1, 2):
            at = start + (end - start) * (number / 3)
            twist = rows.add(
                f"{side} twist {truth} {number}", hung if build.twists == "between" and number == 2 else own, *at
            )
            if build.twists == "between":
                hung = twist
    return hung, own


def _arm(rows: _Rows, build: Build, chest: int, height: float, side: str, sign: int, rng: np.random.Generator) -> None:
    shoulder = np.array([sign * 0.17 * rng.uniform(0.92, 1.1), height + 0.14, -0.01])
    upper, lower = 0.28 * rng.uniform(0.92, 1.06), 0.25 * rng.uniform(0.94, 1.06)
    parent = rows.add(f"{side} clavicle", chest, sign * 0.03, height + 0.14, 0.01) if build.collars else chest
    elbow = shoulder + [sign * upper, 0, -0.006]
    wrist = elbow + [sign * lower, 0, 0.006]
    hung, first = _limb(rows, build, "upperarm", side, parent, shoulder, elbow)
    hung, _ = _limb(rows, build, "lowerarm", side, hung, elbow, wrist)
    hand = rows.add(f"{side} hand", hung, *wrist)
    _fingers(rows, build, hand, side, sign, rng)
    if not build.digits and build.tips:
        rows.add(f"{side} tip", hand, *(wrist + [sign * 0.17, 0, 0]))
    rows.turn(first, about("z", -sign * build.arms))


# Knuckle in the hand's frame (along, up, forward) and length of the first bone, by digit; the palm looks down.
_DIGITS = {
    1: (0.025, -0.012, 0.028, 0.045),
    2: (0.09, 0.0, 0.026, 0.042),
    3: (0.094, 0.003, 0.004, 0.046),
    4: (0.088, 0.001, -0.017, 0.042),
    5: (0.078, -0.004, -0.036, 0.033),
}


def _fingers(rows: _Rows, build: Build, hand: int, side: str, sign: int, rng: np.random.Generator) -> None:
    wrist = rows.at[hand]
    size = rng.uniform(0.92, 1.08)
    for digit in build.digits:
        along, up, ahead, bone = (v * size for v in _DIGITS[digit])
        spread = np.radians(40.0 if digit == 1 and not build.thumb else {1: 8, 2: 5, 3: 0, 4: -4, 5: -9}[digit])
        way = np.array([sign * np.cos(spread), 0.0, np.sin(spread)])
        parent, at = hand, wrist + [sign * along, up, ahead]
        if build.metacarpals and digit > 1:
            parent = rows.add(f"{side} finger {digit} 0", hand, *(wrist + [sign * 0.02, up, ahead * 0.55]))
        first = len(rows.at)
        count = 3 if digit == 1 else build.phalanges
        for number in range(1, count + 1):
            parent = rows.add(f"{side} finger {digit} {number}", parent, *at)
            at = at + way * bone * (0.72 ** (number - 1))
        if build.tips:
            rows.add(f"{side} tip", parent, *at)
        for joint in range(first, first + count):
            rows.turn(joint, about("z", -sign * build.curl * (0.4 if digit == 1 else 1)))


def _leg(rows: _Rows, build: Build, pelvis: int, legs: float, side: str, sign: int, rng: np.random.Generator) -> None:
    hip = np.array([sign * 0.09 * rng.uniform(0.9, 1.15), legs, 0.0])
    knee_height, ankle_height = 0.08 + (legs - 0.08) * rng.uniform(0.48, 0.52), 0.08
    knee = np.array([hip[0] * 1.02, knee_height, 0.012])
    ankle = np.array([hip[0] * 1.04, ankle_height, -0.01])
    hung, _ = _limb(rows, build, "upperleg", side, pelvis, hip, knee)
    hung, _ = _limb(rows, build, "lowerleg", side, hung, knee, ankle)
    foot = rows.add(f"{side} foot", hung, *ankle)
    if build.toes:
        toe = rows.add(f"{side} toe", foot, ankle[0] * 1.05, 0.02, 0.12)
        if build.tips:
            rows.add(f"{side} tip", toe, ankle[0] * 1.06, 0.015, 0.19)


def _load(rows: _Rows, hips: int, chest: int) -> None:
    """Hair, a coat around the hips, a bag on the back, and a tool in the left hand."""
    head, hand = rows.truth.index("head"), rows.truth.index("L hand")
    for x in (-0.06, 0.06):
        below = head
        for number in range(5):
            below = rows.add("hair", below, *(rows.at[head] + [x, 0.12 - 0.09 * number, -0.08]))
    for angle in np.radians(np.arange(0, 360, 60)):
        below = hips
        for number in range(4):
            side = 0.14 + 0.03 * number
            below = rows.add("coat", below, *(rows.at[hips] + [side * np.sin(angle), -0.12 * number, side * np.cos(angle)]))  # fmt: skip
    rows.add("bag", rows.add("bag", chest, *(rows.at[chest] + [0, 0.05, -0.18])), *(rows.at[chest] + [0, -0.2, -0.2]))
    rows.add("tool", hand, *(rows.at[hand] + [0.06, -0.04, 0]))


LOADS = ("root", "hair", "coat", "bag", "tool")


def _named(build: Build, naming: str, rows: _Rows, rng: np.random.Generator) -> Made:
    at = np.array(rows.at)
    at[1:] += rng.normal(0, build.uneven, at[1:].shape) * 0.5 if build.uneven else 0.0
    at = rotate(about("y", build.turned), at)
    if build.z_up:
        at = rotate(about("x", 90), at)
    at = at * build.unit
    count = len(at)
    turned = normalised(rng.normal(0, 1, (count, 4))) if build.own_axes else np.tile(IDENTITY, (count, 1))
    parents = np.array(rows.parents)
    above = np.where(parents[:, None] >= 0, turned[parents], IDENTITY)
    offsets = rotate(inverse(above), at - np.where(parents[:, None] >= 0, at[parents], 0.0))
    names = NAMINGS[naming](rows.truth, rng)
    skeleton = Skeleton(tuple(names), tuple(rows.parents), offsets, normalised(multiply(inverse(above), turned)))
    return Made(skeleton, tuple("" if t in LOADS else t for t in rows.truth))
