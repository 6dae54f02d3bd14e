"""A body suit: a full body at 120 fps that stands in a T-pose, shifts its weight, takes a few steps and gestures."""

from fractions import Fraction

import numpy as np
from scipy.ndimage import gaussian_filter1d

from dynaface.core.body.rotations import IDENTITY, about, multiply
from dynaface.core.body.skeleton import Motion, Skeleton
from dynaface.core.clock.timecode import Timecode
from dynaface.sims.speech import Curve

# name, parent, offset in metres (left is +x, forward +z), in a T-pose.
_TRUNK = (
    ("Hips", "", (0, 0.93, 0)), ("Spine1", "Hips", (0, 0.10, 0)), ("Spine2", "Spine1", (0, 0.12, 0)),
    ("Chest", "Spine2", (0, 0.13, 0)), ("Neck", "Chest", (0, 0.20, 0)), ("Head", "Neck", (0, 0.11, 0.01)),
)  # fmt: skip
_ARM = (("Collar", "Chest", (0.03, 0.15, 0)), ("UpperArm", "Collar", (0.14, 0, 0)), ("ForeArm", "UpperArm", (0.27, 0, 0)),
        ("Hand", "ForeArm", (0.25, 0, 0)))  # fmt: skip
_LEG = (("UpLeg", "Hips", (0.09, -0.02, 0)), ("LowLeg", "UpLeg", (0, -0.41, 0)), ("Foot", "LowLeg", (0, -0.42, 0)),
        ("Toe", "Foot", (0, -0.06, 0.13)))  # fmt: skip
_FINGERS = {
    "1": (0.03, -0.01, 0.03),
    "2": (0.09, 0, 0.025),
    "3": (0.095, 0, 0),
    "4": (0.09, 0, -0.02),
    "5": (0.08, 0, -0.04),
}


def skeleton() -> Skeleton:
    """The suit's skeleton. Finger 1 is the thumb."""
    rows: list[tuple[str, str, tuple[float, float, float]]] = list(_TRUNK)
    for end, sign in (("_L", 1), ("_R", -1)):
        for name, parent, (x, y, z) in (*_ARM, *_LEG):
            above = parent if parent in ("Chest", "Hips") else parent + end
            rows.append((name + end, above, (sign * x, y, z)))
        for finger, (x, y, z) in _FINGERS.items():
            above = "Hand" + end
            for part in (1, 2, 3):
                offset = (sign * x, y, z) if part == 1 else (sign * 0.026, 0, 0.01 if finger == "1" else 0)
                rows.append((f"Finger{finger}_{part}{end}", above, offset))
                above = f"Finger{finger}_{part}{end}"
    names = tuple(r[0] for r in rows)
    parents = tuple(names.index(r[1]) if r[1] else -1 for r in rows)
    return Skeleton(names, parents, np.array([r[2] for r in rows], float), np.tile(IDENTITY, (len(rows), 1)))


def smooth(times: Curve, start: float, end: float) -> Curve:
    """0 up to a moment, 1 from another on, with level ends between them."""
    part = np.clip((times - start) / (end - start), 0, 1)
    return part * part * (3 - 2 * part)


def move(seconds: float, start: Timecode, seed: int, steps_from: float = 2.6, steps: int = 6) -> Motion:
    """T-pose for the first second, arms down by 1.8 s, then weight shifts, steps from `steps_from`, and gestures."""
    rate = 120
    rng = np.random.default_rng(seed)
    suit = skeleton()
    times = np.arange(int(seconds * rate)) / rate
    at = {n: i for i, n in enumerate(suit.names)}
    local = np.tile(IDENTITY, (len(times), len(suit.names), 1))
    root = np.zeros((len(times), 3))
    relaxed = smooth(times, 1.0, 1.8)

    def drift(period: float, reach: float) -> Curve:
        raw = gaussian_filter1d(rng.normal(0, 1, len(times) + 960), period * rate)[480 : 480 + len(times)]
        return reach * raw / (raw.std() + 1e-9)

    def turn(joint: str, *axes: tuple[str, Curve]) -> None:
        for axis, degrees in axes:
            local[:, at[joint]] = multiply(local[:, at[joint]], about(axis, degrees))

    stride = 0.62  # seconds a step
    gait = np.clip((times - steps_from) / stride, 0, steps)
    phase = gait * np.pi
    going = smooth(times, steps_from, steps_from + 0.4) * (
        1 - smooth(times, steps_from + steps * stride - 0.4, steps_from + steps * stride)
    )
    sway = drift(0.7, 1.0) * relaxed
    root[:, 0] = 0.018 * sway + 0.018 * np.sin(phase) * going
    root[:, 1] = -0.012 * relaxed - 0.016 * np.abs(np.sin(phase)) * going - 0.006 * np.abs(sway)
    root[:, 2] = 0.46 * gait
    turn("Hips", ("y", 4 * np.sin(phase) * going + 2 * sway), ("z", 1.6 * np.sin(phase) * going))
    for end, sign in (("_L", 1.0), ("_R", -1.0)):
        swing = np.sin(phase) * sign
        lift = np.clip(np.cos(phase) * sign, 0, 1) * going
        turn("UpLeg" + end, ("x", -22 * swing * going - 16 * lift - 4 * relaxed))
        turn("LowLeg" + end, ("x", 34 * lift + 6 * relaxed))
        turn("Foot" + end, ("x", -8 * lift + 6 * swing * going - 2 * relaxed))
        turn("UpperArm" + end, ("z", -sign * (72 + 2 * drift(0.9, 1)) * relaxed), ("y", -12 * swing * going * sign))
        turn("ForeArm" + end, ("y", -sign * (18 + 10 * np.clip(-swing, 0, 1) * going) * relaxed))
        for finger in "2345":
            for part in (1, 2, 3):
                turn(f"Finger{finger}_{part}{end}", ("z", -sign * (14 + 2 * int(finger)) * relaxed))
    for moment in np.arange(3.2, seconds - 1.5, 1.9) + rng.uniform(-0.3, 0.3, len(np.arange(3.2, seconds - 1.5, 1.9))):
        hand = "_L" if rng.uniform() < 0.35 else "_R"
        sign = 1.0 if hand == "_L" else -1.0
        raised = (
            smooth(times, moment, moment + 0.45) * (1 - smooth(times, moment + 0.9, moment + 1.5)) * rng.uniform(0.5, 1)
        )
        turn("UpperArm" + hand, ("z", sign * 10 * raised), ("y", -sign * 38 * raised))
        turn("ForeArm" + hand, ("y", -sign * 62 * raised), ("x", -20 * raised))
        turn("Hand" + hand, ("z", sign * 14 * raised))
    turn("Spine1", ("x", 2.5 * relaxed + drift(1.1, 0.8) * relaxed), ("z", -1.2 * sway))
    turn("Spine2", ("y", -4 * np.sin(phase) * going), ("x", 0.6 * np.sin(times * 1.6)))
    turn("Chest", ("y", drift(0.9, 2.5) * relaxed), ("x", 1.2 * np.sin(times * 1.6 + 0.5)))
    # The body suit saw the head too: a cap with a sensor, a little late and heavy.
    turn("Neck", ("y", drift(0.6, 5) * relaxed), ("x", drift(0.5, 2.5) * relaxed))
    turn("Head", ("y", drift(0.6, 6) * relaxed), ("x", drift(0.5, 3) * relaxed), ("z", drift(0.8, 2) * relaxed))
    return Motion(suit, local, root, Fraction(rate), start)
