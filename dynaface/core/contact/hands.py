"""The hands of a skeleton: their arms, and the places of them that touch something, while the body moves."""

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np

from dynaface.core.body.rotations import Array, inverse, rotate
from dynaface.core.body.skeleton import Skeleton
from dynaface.core.body.two_bones import Bones
from dynaface.core.match.anatomy import Anatomy, anatomy_of
from dynaface.core.match.limb_bones import ARM, bones_of

PLACES = ("palm", "finger1", "finger2", "finger3", "finger4", "finger5")
"""Places of a hand that touch: the middle of its palm, and the tips of its fingers, the thumb first."""
INSTEAD = {"palm": (), "finger1": ("finger2", "finger3")}  # what touches where a hand has no such finger
ADULT = 0.52  # metres of the arms whose hands the limits are of
PALM, TIP = 0.08, 0.17  # metres of an adult from the wrist on, of a hand whose fingers nobody recorded
PAD, FLESH = 0.008, 0.02  # metres of an adult from the middle of a fingertip, and of a palm, to its skin
LAST = 0.8  # of the bone before it that the last bone of a finger is long


@dataclass(frozen=True)
class Hand:
    """side: "Left" or "Right"; bones: indices of upper arm, forearm and wrist; places: name -> (joint, (3,) metres in its frame), of those
    that the hand has; size: of the arm, by that of an adult.
    """

    side: str
    bones: Bones
    places: Mapping[str, tuple[int, Array]]
    size: float

    def place(self, name: str, rotations: Array, positions: Array) -> Array:
        """(frames, 3) metres of a place of `PLACES`, or of what is in its stead, by global rotations and positions."""
        known = next(n for n in (name, *INSTEAD.get(name, ("finger3", "finger2")), "palm") if n in self.places)
        joint, offset = self.places[known]
        return positions[:, joint] + rotate(rotations[:, joint], np.broadcast_to(offset, positions[:, joint].shape))

    def skin(self, name: str) -> float:
        """Metres from a place to the skin."""
        return (FLESH if name == "palm" else PAD) * self.size


def hands_of(skeleton: Skeleton) -> dict[str, Hand]:
    """Hands by side, of arms whose joints hang on each other; {} without."""
    anatomy = anatomy_of(skeleton)
    made = (_hand(skeleton, anatomy, word) for word in ("Left", "Right"))
    return {hand.side: hand for hand in made if hand is not None}


def _hand(skeleton: Skeleton, anatomy: Anatomy, word: str) -> Hand | None:
    bones = bones_of(skeleton, ARM, word[0])
    if bones is None:
        return None
    rotations, at = skeleton.global_rest()
    upper, lower = at[bones.middle] - at[bones.top], at[bones.end] - at[bones.middle]
    size = float(np.linalg.norm(upper) + np.linalg.norm(lower)) / ADULT
    fingers = {digit: anatomy.chain(f"finger{digit}", word[0]) for digit in range(1, 6)}
    knuckles = [at[chain[0]] for digit, chain in fingers.items() if chain and digit > 1]
    along = lower / max(float(np.linalg.norm(lower)), 1e-9) * size
    palm = (np.mean(knuckles, axis=0) - at[bones.end]) / 2 if knuckles else PALM * along

    def within(joint: int, way: Array) -> tuple[int, Array]:
        return joint, rotate(inverse(rotations[joint]), way)

    places = {"palm": within(bones.end, palm)}
    for digit, chain in fingers.items():
        if len(chain) > 1:
            places[f"finger{digit}"] = within(chain[-1], LAST * (at[chain[-1]] - at[chain[-2]]))
    if len(places) == 1:
        places["finger3"] = within(bones.end, TIP * along)
    return Hand(word, bones, places, size)
