"""An actor in the body suit on the stage: the suit's gestures over feet that are planned, so that what stands does not slide."""

from collections.abc import Sequence
from dataclasses import replace

import numpy as np
from scipy.ndimage import gaussian_filter1d

from dynaface.core.body.rotations import IDENTITY, Array
from dynaface.core.body.skeleton import Motion
from dynaface.core.clock.timecode import Timecode
from dynaface.sims.body_suit import move, smooth
from dynaface.sims.touches import Plan, touched
from dynaface.sims.walk import HIPS, WIDE, Stance, foot_path, lay_legs

BEAT, STRIDE, SWING = 0.62, 0.46, 0.46  # seconds a step, metres, seconds in the air
KNEES = 0.045  # metres by which hips sink from the T-pose, so that knees are soft
AFTER = 1.0  # seconds that feet stand beyond the end


def perform(
    seconds: float, start: Timecode, seed: int, steps: int, touches: Sequence[Plan] = (), steps_from: float = 1.9
) -> Motion:
    """T-pose for a second, then `steps` steps ahead from `steps_from`, then standing and talking with the hands, which touch as planned."""
    upper = move(seconds, start, seed, steps_from, steps)
    times = np.arange(upper.frames) / float(upper.rate)
    stances = planned(steps, steps_from, float(times[-1]) + AFTER)
    feet = {side: foot_path(own, times) for side, own in stances.items()}
    local = upper.local.copy()
    for joint, name in enumerate(upper.skeleton.names):
        if name.startswith(("UpLeg", "LowLeg", "Foot")):
            local[:, joint] = IDENTITY
    hips = hips_over(feet, upper)
    lay_legs(local, hips, feet)
    return touched(replace(upper, local=local, root=hips - HIPS), touches)


def planned(steps: int, steps_from: float, end: float) -> dict[str, list[Stance]]:
    """When and where each foot stands; the first and the last step are half ones, so that feet are beside each other."""
    stances: dict[str, list[Stance]] = {"Left": [], "Right": []}
    sides = {"Left": WIDE, "Right": -WIDE}
    since, z, front = dict.fromkeys(sides, (0.0, False)), dict.fromkeys(sides, 0.0), 0.0
    for number in range(steps):
        side, at = ("Right", "Left")[number % 2], steps_from + number * BEAT
        first, struck = since[side]
        stances[side].append(Stance(first, at, (sides[side], z[side]), struck, True))
        last = number == steps - 1
        front += STRIDE / 2 if number == 0 else 0.0 if last else STRIDE
        since[side], z[side] = (at + SWING, not last), front
    for side, (first, struck) in since.items():
        stances[side].append(Stance(first, end, (sides[side], z[side]), struck, False))
    return stances


def hips_over(feet: dict[str, tuple[Array, Array]], upper: Motion) -> Array:
    """(frames, 3) metres of hips over both feet, shifting their weight as the suit does, no higher than straight legs let them."""
    rate = float(upper.rate)
    middle = np.mean([gaussian_filter1d(f[0], 0.16 * rate, axis=0, mode="nearest") for f in feet.values()], axis=0)
    soft = smooth(np.arange(upper.frames) / rate, 1.0, 1.8)
    out = HIPS + upper.root * [1.0, 0.5, 0.0]
    out[:, 1] -= 0.004 + KNEES * soft
    out[:, 0] += 0.3 * middle[:, 0]
    out[:, 2] = middle[:, 2] + 0.01
    return out
