"""The pose that counts as a body take's rest: that of its file, or one that was held in it; and where it was held."""

from collections.abc import Mapping
from dataclasses import dataclass, replace

import numpy as np
from scipy.ndimage import gaussian_filter1d

from dynaface.core.body.rotations import Array, about, headings, multiply, normalised
from dynaface.core.body.skeleton import Motion, Skeleton
from dynaface.core.curves.known_runs import runs
from dynaface.core.match.anatomy import anatomy_of

STILL = 0.06  # metres a second below which hands, feet and head of an adult are held still
ADULT = 0.93  # metres of the hips of those
LEAST = 3.0  # seconds that a calibration pose is held
LOOKED = 60.0  # frames a second at which stillness is looked for
AROUND = 0.25  # seconds on both sides over which a held pose is averaged
POSES = {"T": (-25.0, 25.0), "A": (25.0, 65.0), "arms down": (65.0, 91.0)}  # degrees by which arms hang from level


@dataclass(frozen=True)
class Still:
    """A pose that was held from one second to another. pose: of `POSES`, or "" for another; arms: degrees by which they hang."""

    first: float
    last: float
    pose: str
    arms: float


def held_pose(motion: Motion, seconds: float) -> dict[str, Array]:
    """Joint -> (4,) local rotation in a pose that was held about a moment, with the heading taken out."""
    times = np.clip(seconds + np.linspace(-AROUND, AROUND, 9), 0, motion.seconds)
    local, _ = motion.at(times)
    mean = normalised((local * np.sign((local * local[4]).sum(axis=-1, keepdims=True))).mean(axis=0))
    skeleton = motion.skeleton
    heading = about("y", -heading_of(skeleton, mean))
    for joint, parent in enumerate(skeleton.parents):
        if parent < 0:
            mean[joint] = multiply(heading, mean[joint])
    return dict(zip(skeleton.names, mean, strict=True))


def as_rest(skeleton: Skeleton, pose: Mapping[str, Array]) -> Skeleton:
    """The skeleton with a pose as its rest; joints that the pose does not name keep theirs."""
    rest = [pose.get(name, own) for name, own in zip(skeleton.names, skeleton.rest, strict=True)]
    return replace(skeleton, rest=normalised(np.array(rest, np.float64)))


def heading_of(skeleton: Skeleton, local: Array) -> float:
    """Degrees about up by which a pose (joints, 4) is turned from looking along +z, by where its legs or arms are."""
    anatomy = anatomy_of(skeleton)
    pairs = [(anatomy.joint(p, "L"), anatomy.joint(p, "R")) for p in ("upperleg", "upperarm")]
    left, right = next((p for p in pairs if min(p) >= 0), (-1, -1))
    if left < 0:
        return 0.0
    at = skeleton.pose(local[None], np.zeros((1, 3)))[1][0]
    aside = at[left] - at[right]
    return float(np.degrees(np.arctan2(-aside[2], aside[0])))


def find_still(motion: Motion, least: float = LEAST) -> tuple[Still, ...]:
    """Poses that were held for `least` seconds and more, in order."""
    anatomy = anatomy_of(motion.skeleton)
    ends = [anatomy.joint(*p) for p in (("hand", "L"), ("hand", "R"), ("foot", "L"), ("foot", "R"), ("head", ""))]
    ends = [j for j in ends if j >= 0]
    count = int(motion.seconds * LOOKED)
    if not ends or count < 3:
        return ()
    times = np.arange(count) / LOOKED
    local, root = motion.at(times)
    places = gaussian_filter1d(motion.skeleton.pose(local, root)[1][:, ends], 3, axis=0, mode="nearest")
    at = motion.skeleton.global_rest()[1]
    size = float(np.ptp(at, axis=0).max()) / 2 / ADULT
    speed = np.linalg.norm(np.gradient(places, axis=0), axis=-1).max(axis=1) * LOOKED / max(size, 1e-9)
    out = []
    for first, stop in runs(speed < STILL):
        if stop - first >= least * LOOKED:
            middle = (first + stop) // 2
            out.append(_named(motion.skeleton, local[middle], first / LOOKED, stop / LOOKED))
    return tuple(out)


def _named(skeleton: Skeleton, local: Array, first: float, last: float) -> Still:
    anatomy = anatomy_of(skeleton)
    at = skeleton.pose(local[None], np.zeros((1, 3)))[1][0]
    hung, straight = [], True
    for side in ("L", "R"):
        top, middle, end = (anatomy.joint(p, side) for p in ("upperarm", "lowerarm", "hand"))
        if min(top, middle, end) < 0:
            return Still(first, last, "", 0.0)
        way = at[end] - at[top]
        hung.append(float(np.degrees(np.arcsin(-way[1] / max(float(np.linalg.norm(way)), 1e-9)))))
        reach = np.linalg.norm(at[middle] - at[top]) + np.linalg.norm(at[end] - at[middle])
        straight = straight and bool(np.linalg.norm(way) > 0.93 * reach)
    arms = float(np.mean(hung))
    alike = straight and abs(hung[0] - hung[1]) < 20
    pose = next((n for n, (low, high) in POSES.items() if low <= arms < high), "") if alike else ""
    return Still(first, last, pose, arms)


def turns_of(degrees: Mapping[str, tuple[float, float, float]]) -> dict[str, Array]:
    """Joint -> (4,) world rotation of degrees about the axes x (left), y (up) and z (ahead), applied in the order z, x, y."""
    return {n: multiply(multiply(about("y", y), about("x", x)), about("z", z)) for n, (x, y, z) in degrees.items()}


def differences(source: Skeleton, target: Skeleton, matches: Mapping[str, str]) -> dict[str, float]:
    """Target joint -> degrees between the directions of its limb at rest and of the source's, for matched arms and legs."""
    ours, theirs = source.global_rest()[1], target.global_rest()[1]
    out: dict[str, float] = {}
    for joint, name in enumerate(target.names):
        parent = target.parents[joint]
        above = target.names[parent] if parent >= 0 else ""
        if name in matches and above in matches:
            one = theirs[joint] - theirs[parent]
            two = ours[source.index(matches[name])] - ours[source.index(matches[above])]
            size = float(np.linalg.norm(one) * np.linalg.norm(two))
            if size > 1e-12:
                out[above] = float(np.degrees(np.arccos(np.clip(one @ two / size, -1, 1))))
    return out


def ahead(turn: Array) -> float:
    """Degrees about up by which a turn (4,) takes what looks along +z."""
    return float(np.degrees(headings(turn)))
