"""Measures of a performer's body, and how a skeleton is measured."""

from dataclasses import dataclass

import numpy as np

from dynaface.core.body.rotations import Array
from dynaface.core.body.skeleton import Skeleton
from dynaface.core.contact.feet import feet_of, has_feet, rest_ground
from dynaface.core.contact.hands import LAST, TIP, Hand, hands_of
from dynaface.core.match.anatomy import anatomy_of

SKULL = 0.33  # of the way from the hips to the joint of the head that an adult's head goes on above it
BALL = 0.73  # of a foot's length from the heel to the ball of the foot (anthropometric tables of adults)
LIMITS = {"height": (0.3, 3.0), "span": (0.3, 3.5), "hips": (0.1, 2.0), "foot": (0.05, 0.6)}
"""Metres between which each measure of a person lies."""


@dataclass(frozen=True)
class Measures:
    """Metres, None for what is not known. height: to the top of the head; span: between the tips of the middle fingers of arms held
    out; hips: to the joints of the thighs of straight legs; foot: from the heel to the tip of the toes.
    """

    height: float | None = None
    span: float | None = None
    hips: float | None = None
    foot: float | None = None

    @property
    def none(self) -> bool:
        """Whether nothing is known."""
        return all(getattr(self, name) is None for name in LIMITS)


def measure(skeleton: Skeleton) -> Measures:
    """The measures of a skeleton, whatever its pose at rest, as far as it has the joints."""
    hips, foot, span = None, None, None
    if has_feet(skeleton):
        feet = feet_of(skeleton)
        hips = float(np.mean([f.leg for f in feet])) + ankle_height(skeleton)
        foot = float(np.mean([np.linalg.norm(f.ball - f.heel) for f in feet])) / BALL
    hands = hands_of(skeleton)
    if len(hands) == 2:
        span = shoulder_width(skeleton, hands) + sum(_arm(skeleton, hand) for hand in hands.values())
    trunk = trunk_parts(skeleton)
    return Measures(hips + sum(trunk) if hips is not None and trunk is not None else None, span, hips, foot)


def ankle_height(skeleton: Skeleton) -> float:
    """Metres of the ankles above the ground, of a skeleton that has feet."""
    at = skeleton.global_rest()[1]
    return float(np.mean([at[f.ankle][1] for f in feet_of(skeleton)])) - rest_ground(skeleton)


def shoulder_width(skeleton: Skeleton, hands: dict[str, Hand]) -> float:
    """Metres between the joints of the upper arms at rest."""
    at = skeleton.global_rest()[1]
    left, right = (at[hands[side].bones.top] for side in ("Left", "Right"))
    return float(np.linalg.norm(left - right))


def trunk_joints(skeleton: Skeleton) -> list[int]:
    """The joints above the hips up to the head; [] where a skeleton has no such way."""
    anatomy = anatomy_of(skeleton)
    hips, head = anatomy.joint("hips"), anatomy.joint("head")
    if hips < 0 or head < 0:
        return []
    return skeleton.chain(skeleton.names[hips], skeleton.names[head])[1:]


def trunk_parts(skeleton: Skeleton) -> tuple[float, float] | None:
    """(metres of the hips above the joints of the thighs, metres from the hips to the top of the head) of a trunk that is straight; None
    without one.
    """
    joints = trunk_joints(skeleton)
    if not joints or not has_feet(skeleton):
        return None
    at = skeleton.global_rest()[1]
    thighs = float(np.mean([at[f.thigh][1] for f in feet_of(skeleton)]))
    return float(at[skeleton.parents[joints[0]]][1]) - thighs, (1 + SKULL) * _lengths(skeleton, joints)


def _lengths(skeleton: Skeleton, joints: list[int]) -> float:
    return float(np.linalg.norm(skeleton.offsets[joints], axis=1).sum())


def _arm(skeleton: Skeleton, hand: Hand) -> float:
    """Metres from the joint of the upper arm to the tip of the middle finger of an arm held out."""
    bones = _lengths(skeleton, [hand.bones.middle, hand.bones.end])
    fingers = [j for d in (3, 2, 4) for j in anatomy_of(skeleton).chain(f"finger{d}", hand.side[0])[-1:]]
    if not fingers:
        return bones + TIP * hand.size
    way = skeleton.chain(skeleton.names[hand.bones.end], skeleton.names[fingers[0]])[1:]
    last: Array = skeleton.offsets[way[-1]]
    return bones + _lengths(skeleton, way) + LAST * float(np.linalg.norm(last))
