"""What a performer does before the camera: a range of motion, a head turn, an expressive performance."""

from fractions import Fraction

import numpy as np

from dynaface.core.curves.channels import Channels
from dynaface.core.shapes.standard import HEAD_ANGLES, SHAPES
from dynaface.sims.actor import act
from dynaface.sims.speech import Phone

RATE = Fraction(30)
NAMES = SHAPES + HEAD_ANGLES
# What people do with their faces, as shapes that come together; "*" stands for both sides.
GESTURES: tuple[dict[str, float], ...] = (
    {"mouthSmile*": 0.8, "cheekSquint*": 0.55, "eyeSquint*": 0.35}, {"mouthFrown*": 0.7, "browInnerUp": 0.6},
    {"browDown*": 0.75, "eyeSquint*": 0.5, "mouthPress*": 0.45}, {"browInnerUp": 0.7, "browOuterUp*": 0.75, "eyeWide*": 0.6},
    {"noseSneer*": 0.8, "mouthUpperUp*": 0.55}, {"mouthPucker": 0.85}, {"mouthFunnel": 0.7, "jawOpen": 0.25},
    {"jawOpen": 0.75}, {"jawOpen": 0.6, "mouthClose": 0.5}, {"cheekPuff": 0.8}, {"jawLeft": 0.7}, {"jawRight": 0.7},
    {"jawForward": 0.7}, {"mouthLeft": 0.7}, {"mouthRight": 0.7}, {"mouthDimple*": 0.7}, {"mouthStretch*": 0.7},
    {"mouthRollLower": 0.75, "mouthRollUpper": 0.65}, {"mouthRollLower": 0.8}, {"mouthShrugLower": 0.75, "mouthShrugUpper": 0.6},
    {"mouthLowerDown*": 0.75, "jawOpen": 0.2}, {"mouthUpperUp*": 0.7}, {"mouthSmileLeft": 0.7}, {"mouthSmileRight": 0.7},
    {"browOuterUpLeft": 0.8}, {"browOuterUpRight": 0.8}, {"eyeSquint*": 0.75}, {"eyeBlinkLeft": 0.95}, {"eyeBlinkRight": 0.95},
    {"mouthPress*": 0.7}, {"browDown*": 0.7}, {"cheekSquint*": 0.7}, {"mouthSmile*": 0.6, "jawOpen": 0.5},
)  # fmt: skip


def _spread(gesture: dict[str, float]) -> dict[str, float]:
    return {n.replace("*", side): v for n, v in gesture.items() for side in ("Left", "Right")}


def _bump(times: np.ndarray, start: float, rise: float, hold: float, fall: float) -> np.ndarray:
    up = np.clip((times - start) / rise, 0, 1)
    down = np.clip((times - start - rise - hold) / fall, 0, 1)
    return up * up * (3 - 2 * up) * (1 - down * down * (3 - 2 * down))


def expressive(seconds: float, seed: int, phones: list[Phone] | None = None) -> Channels:
    """A performance at 30 fps: speech where there are phones, gestures of the whole face, blinks, gaze, head motion."""
    rng = np.random.default_rng(seed)
    base = act(phones or [], seconds, seed, rate=int(RATE))
    values = np.stack([base.column(n) for n in NAMES], axis=1)
    times = np.arange(base.frames) / float(RATE)
    at = rng.uniform(0.2, 0.6)
    order = list(rng.permutation(len(GESTURES)))
    while at < seconds - 0.6:
        gesture = _spread(GESTURES[order.pop() if order else rng.integers(len(GESTURES))])
        rise, hold, fall = rng.uniform(0.12, 0.3), rng.uniform(0.05, 0.45), rng.uniform(0.15, 0.4)
        amount = rng.uniform(0.6, 1.15)
        for name, value in gesture.items():
            own = amount * value * rng.uniform(0.8, 1.2) * _bump(times, at + rng.uniform(-0.05, 0.05), rise, hold, fall)
            column = NAMES.index(name)
            values[:, column] = np.maximum(values[:, column], own)
        at += rise + hold + rng.uniform(-0.05, 0.35) + 0.5 * fall
    values[:, : len(SHAPES)] = np.clip(values[:, : len(SHAPES)], 0, 1)
    values[:, len(SHAPES) :] *= 1.6
    return Channels(NAMES, values.astype(np.float32), RATE)


def range_of_motion(seed: int, head: float = 1.5) -> tuple[Channels, dict[str, object]]:
    """Each expression to its extreme and back, after a still second; with what samples.json would say of it."""
    rng = np.random.default_rng(seed)
    still, reach = 30, 14
    both = [s for s in SHAPES if not s.endswith("Right") or s in ("jawRight", "mouthRight")]
    done: list[tuple[str, ...]] = []
    for name in both:
        pair = name[:-4] + "Right"
        sided = name.endswith("Left") and pair in SHAPES and name not in ("jawLeft", "mouthLeft")
        # Left and right are shown apart where people can move them apart.
        if sided and name.startswith(("eyeLook", "browDown", "cheekSquint", "noseSneer", "mouthFrown", "mouthStretch")):
            done.append((name, pair))
        elif sided:
            done += [(name,), (pair,)]
        else:
            done.append((name,))
    frames = still + len(done) * (reach + 4) + 10
    values = np.zeros((frames, len(NAMES)))
    samples: dict[str, int] = {}
    shape = np.sin(np.linspace(0, np.pi, reach + 1)) ** 1.3
    for number, group in enumerate(done):
        first = still + number * (reach + 4)
        for name in group:
            values[first : first + reach + 1, NAMES.index(name)] = shape
            samples[name] = first + reach // 2
            # Nobody closes the lips over an open jaw without opening it.
            if name == "mouthClose":
                values[first : first + reach + 1, NAMES.index("jawOpen")] = shape
    wander = np.cumsum(rng.normal(0, 0.25, (frames, 3)), axis=0)
    values[:, len(SHAPES) :] = head * (wander - wander.mean(axis=0)) / max(wander.std(), 1e-6)
    values[:still, len(SHAPES) :] *= 0.2
    return Channels(NAMES, values.astype(np.float32), RATE), {"neutral": [2, still - 4], "samples": samples}


def head_turn(seed: int) -> Channels:
    """A neutral face that turns left, right, up, down and tilts: five seconds."""
    rng = np.random.default_rng(seed)
    times = np.arange(150) / float(RATE)
    values = np.zeros((len(times), len(NAMES)))
    phase = rng.uniform(-0.2, 0.2, 3)
    ease = np.clip(times / 0.4, 0, 1)
    for column, (size, pace) in enumerate(((20, 0.42), (11, 0.55), (9, 0.31))):
        values[:, len(SHAPES) + column] = ease * size * np.sin(2 * np.pi * pace * times + phase[column])
    return Channels(NAMES, values.astype(np.float32), RATE)
