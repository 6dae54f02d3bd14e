"""A recording of both hands in gloves whose fingers are named one too far: their "Index" is the thumb."""

from fractions import Fraction

import numpy as np
from scipy.ndimage import gaussian_filter1d

from dynaface.core.body.rotations import IDENTITY, Array, about, multiply
from dynaface.core.body.skeleton import Motion, Skeleton
from dynaface.core.clock.timecode import Timecode
from dynaface.sims.body_suit import skeleton as suit
from dynaface.sims.body_suit import smooth

NAMED = {"1": "Index", "2": "Middle", "3": "Ring", "4": "Little", "5": "Last"}
RATE = 60
CURL = {"1": 8.0, "2": 16.0, "3": 20.0, "4": 24.0, "5": 26.0}  # degrees a joint of a hand at ease


def skeleton() -> Skeleton:
    """The suit's arms from the collars on, with fingers named as the gloves name them."""
    whole = suit()
    kept = [i for i, n in enumerate(whole.names) if n in ("Chest",) or _of_arm(n)]
    names = tuple(_named(whole.names[i]) for i in kept)
    parents = tuple(kept.index(whole.parents[i]) if whole.parents[i] in kept else -1 for i in kept)
    return Skeleton(names, parents, whole.offsets[kept], whole.rest[kept])


def perform(seconds: float, start: Timecode, seed: int) -> Motion:
    """Fingers flat for a second, as the body stands in its T-pose, then at ease, counting, opening and closing while somebody talks."""
    rng = np.random.default_rng(seed)
    bones = skeleton()
    times = np.arange(int(seconds * RATE)) / RATE
    relaxed = smooth(times, 1.0, 1.8)
    local = np.tile(IDENTITY, (len(times), len(bones.names), 1))
    for end, sign in (("_L", 1.0), ("_R", -1.0)):
        opening = _wander(rng, len(times), 0.45)
        for finger, curl in CURL.items():
            own = 1 + 0.75 * opening + 0.3 * _wander(rng, len(times), 0.3)
            for part in (1, 2, 3):
                joint = bones.names.index(f"{NAMED[finger]}{part}{end}")
                axis = "y" if finger == "1" else "z"
                local[:, joint] = multiply(
                    local[:, joint], about(axis, -sign * curl * np.clip(own, 0.1, 2.6) * relaxed)
                )
    return Motion(bones, local, np.zeros((len(times), 3)), Fraction(RATE), start)


def _of_arm(name: str) -> bool:
    return name.startswith(("Collar", "UpperArm", "ForeArm", "Hand", "Finger"))


def _named(name: str) -> str:
    if not name.startswith("Finger"):
        return name
    finger, rest = name[len("Finger")], name[len("Finger1_") :]
    return NAMED[finger] + rest


def _wander(rng: np.random.Generator, frames: int, period: float) -> Array:
    """(frames,) about -1 .. 1, as slow as the period in seconds."""
    raw = gaussian_filter1d(rng.normal(0, 1, frames + 480), period * RATE)[240 : 240 + frames]
    return np.clip(raw / (raw.std() + 1e-9), -1.6, 1.6)
