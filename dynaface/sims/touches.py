"""An actor's hands that touch: planned moments at which a fingertip is on the chin, palms are together, or hands clap."""

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
from scipy.spatial.transform import Rotation

from dynaface.core.body.rotations import Array, continuous, inverse, multiply, rotate, slerp
from dynaface.core.body.skeleton import Motion
from dynaface.core.body.two_bones import Bones, lay
from dynaface.sims.body_suit import smooth

CHIN = np.array([0.0, -0.035, 0.115])  # metres from the suit's head joint, in the head
MIDDLE = np.array([0.0, -0.02, 0.36])  # metres from the suit's chest joint to where palms meet, in the chest
THICK = 0.02  # metres from the middle of a palm to its skin
PALM = np.array([0.047, 0.0, 0.0])  # metres from the suit's wrist, of the left hand
TIP = 0.026 * 0.8  # metres of the last bone of a finger


@dataclass(frozen=True)
class Plan:
    """what: "LeftHand" or "RightHand" on the chin, or "Hands" on each other; first, last: seconds between which they touch; quick: seconds
    of the way there and back.
    """

    what: str
    first: float
    last: float
    quick: float = 0.6

    def share(self, times: Array) -> Array:
        """(frames,) 0 elsewhere .. 1 where they touch."""
        coming = smooth(times, self.first - self.quick, self.first)
        return np.asarray(coming * (1 - smooth(times, self.last, self.last + self.quick)))


def touched(motion: Motion, plans: Sequence[Plan]) -> Motion:
    """The suit's motion with hands that do as planned."""
    for plan in plans:
        share = plan.share(np.arange(motion.frames) / float(motion.rate))
        for side in ("L", "R") if plan.what == "Hands" else (plan.what[0],):
            motion = _moved(motion, side, plan.what == "Hands", share)
    return motion


def _moved(motion: Motion, side: str, together: bool, share: Array) -> Motion:
    names, sign = motion.skeleton.names, 1.0 if side == "L" else -1.0
    bones = Bones(*(names.index(f"{n}_{side}") for n in ("UpperArm", "ForeArm", "Hand")))
    rotations, positions = motion.skeleton.pose(motion.local, motion.root)
    carrier = names.index("Chest" if together else "Head")
    base, at = rotations[:, carrier], positions[:, carrier]
    if together:  # fingers up and ahead, palms to each other
        turn = _hand_turned(np.array([0.0, 0.8, 0.6]), np.array([-sign, 0.0, 0.0]), sign)
        goal, offset = MIDDLE + [sign * THICK, 0.0, 0.0], np.broadcast_to(PALM * [sign, 1, 1], at.shape)
    else:  # fingers up and over the chin, palm to the face
        turn = _hand_turned(np.array([-0.55 * sign, 0.8, -0.25]), np.array([-0.2 * sign, -0.2, -0.95]), sign)
        goal = CHIN
        last = names.index(f"Finger2_3_{side}")
        bone = motion.skeleton.offsets[last] / np.linalg.norm(motion.skeleton.offsets[last])
        tip = positions[:, last] + rotate(rotations[:, last], np.broadcast_to(bone * TIP, at.shape))
        offset = rotate(inverse(rotations[:, bones.end]), tip - positions[:, bones.end])
    there = multiply(base, turn)
    wrist = slerp(rotations[:, bones.end], there, share)
    wish = at + rotate(base, np.broadcast_to(goal, at.shape)) - rotate(there, offset)
    wish = positions[:, bones.end] + share[:, None] * (wish - positions[:, bones.end])
    laid = lay(motion.skeleton, bones, rotations, positions, wish, wrist, np.array([0.0, sign, 0.0]))
    local, moved = motion.local.copy(), share > 0
    for joint, own in laid.items():
        local[moved, joint] = own[moved]
        local[:, joint] = continuous(local[:, joint])
    return replace(motion, local=local)


def _hand_turned(fingers: Array, palm: Array, sign: float) -> Array:
    """(4,) the turn from the T-pose after which fingers and the palm look somewhere."""
    rest = np.array([[sign, 0.0, 0.0], [0.0, -1.0, 0.0]])
    fingers = fingers / np.linalg.norm(fingers)
    palm = palm - (palm @ fingers) * fingers
    found, _ = Rotation.align_vectors(np.stack([fingers, palm / np.linalg.norm(palm)]), rest)
    return np.asarray(found.as_quat())
