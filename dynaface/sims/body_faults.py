"""What goes wrong with body takes, put into a sound one on purpose: each kind under the name of what finds it."""

from collections.abc import Callable
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from dynaface.core.body.rotations import about, multiply
from dynaface.core.body.skeleton import Motion

Random = np.random.Generator


@dataclass(frozen=True)
class Broken:
    """motion: with the fault; first, last: frames of it; joints: indices of those that are wrong, none for the hips' way."""

    motion: Motion
    first: int
    last: int
    joints: tuple[int, ...] = ()


def _place(motion: Motion, rng: Random, seconds: float) -> slice:
    """A stretch somewhere in the middle of a take."""
    length = max(round(seconds * float(motion.rate)), 1)
    first = int(rng.integers(motion.frames // 5, motion.frames * 4 // 5 - length))
    return slice(first, first + length)


def _limb(motion: Motion, rng: Random, *parts: str) -> tuple[int, ...]:
    side = "_L" if rng.uniform() < 0.5 else "_R"
    return tuple(motion.skeleton.names.index(part + side) for part in parts)


def _turned(motion: Motion, joint: int, at: slice, axis: str, degrees: NDArray[np.float64] | float) -> Motion:
    local = motion.local.copy()
    count = len(local[at])
    local[at, joint] = multiply(about(axis, np.broadcast_to(degrees, (count,))), local[at, joint])
    return replace(motion, local=local)


def lose_joints(motion: Motion, rng: Random) -> Broken:
    """A leg stands still for up to half a second while the body walks."""
    joints, local = _limb(motion, rng, "UpLeg", "LowLeg"), motion.local.copy()
    speed = np.abs(np.diff(motion.local[:, joints[0]], axis=0)).sum(axis=1)
    length = round(rng.uniform(0.2, 0.5) * float(motion.rate))
    middle = slice(motion.frames // 5, motion.frames * 4 // 5 - length)
    first = middle.start + int(np.argmax(speed[middle]))
    local[first : first + length, joints] = local[first, joints]
    return Broken(replace(motion, local=local), first, first + length - 1, joints)


def spike(motion: Motion, rng: Random) -> Broken:
    """A forearm is elsewhere for up to 17 milliseconds."""
    (joint,), at = _limb(motion, rng, "ForeArm"), _place(motion, rng, rng.uniform(0.005, 0.017))
    return Broken(_turned(motion, joint, at, "z", rng.uniform(18, 60)), at.start, at.stop - 1, (joint,))


def tremble(motion: Motion, rng: Random) -> Broken:
    """An arm trembles for about a second."""
    (joint,), at = _limb(motion, rng, "UpperArm"), _place(motion, rng, rng.uniform(0.6, 1.4))
    shake = rng.normal(0, rng.uniform(1.5, 4.0), at.stop - at.start)
    return Broken(_turned(motion, joint, at, "z", shake), at.start, at.stop - 1, (joint,))


def overturn(motion: Motion, rng: Random) -> Broken:
    """A knee bends forward for half a second."""
    (joint,), at = _limb(motion, rng, "LowLeg"), _place(motion, rng, 0.5)
    local = motion.local.copy()
    local[at, joint] = about("x", np.full(at.stop - at.start, -rng.uniform(25, 60)))
    return Broken(replace(motion, local=local), at.start, at.stop - 1, (joint,))


def drift(motion: Motion, rng: Random) -> Broken:
    """The hips drift by 2 to 6 centimetres a second."""
    way = rng.uniform(0.02, 0.06) * np.array([np.cos(a := rng.uniform(0, 2 * np.pi)), 0, np.sin(a)])
    times = np.arange(motion.frames)[:, None] / float(motion.rate)
    return Broken(replace(motion, root=motion.root + times * way), 0, motion.frames - 1)


def sink(motion: Motion, rng: Random) -> Broken:
    """The body sinks into the ground for a second."""
    at = _place(motion, rng, 1.0)
    root = motion.root.copy()
    root[at, 1] -= rng.uniform(0.05, 0.12) * np.sin(np.linspace(0, np.pi, at.stop - at.start)) ** 2
    return Broken(replace(motion, root=root), at.start, at.stop - 1)


BODY_FAULTS: dict[str, Callable[[Motion, Random], Broken]] = {
    "joints lost": lose_joints,
    "body spike": spike,
    "body jitter": tremble,
    "beyond limit": overturn,
    "way drifts": drift,
    "through the ground": sink,
}
