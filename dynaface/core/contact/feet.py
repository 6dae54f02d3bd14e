"""The feet of a skeleton: their joints, and where heel and toe are while the body moves."""

from dataclasses import dataclass, replace

import numpy as np

from dynaface.core.body.rotations import Array, inverse, rotate
from dynaface.core.body.skeleton import Motion, Skeleton
from dynaface.core.errors import InputError
from dynaface.core.match.anatomy import anatomy_of

# Shares of the way from ankle to toe joint along the ground: how far the heel lies behind the ankle, and the sole below the toe joint.
HEEL, SOLE = 0.35, 0.15
ADULT = 0.83  # metres of thigh and shin of those whose feet the limits are of; other bodies have them by their legs


@dataclass(frozen=True)
class Foot:
    """side: "Left" or "Right"; indices of the joints, toe -1 where there is none; heel, ball: (3,) metres in the ankle's frame of the two
    places on which the foot stands; clear: metres by which the ball lies above the sole at rest; leg: metres of thigh and shin.
    """

    side: str
    thigh: int
    shin: int
    ankle: int
    toe: int
    heel: Array
    ball: Array
    clear: float
    leg: float

    def places(self, rotations: Array, positions: Array) -> tuple[Array, Array]:
        """(heel, toe), each (frames, 3) metres, of global rotations (frames, joints, 4) and positions (frames, joints, 3)."""
        turn, ankle = rotations[:, self.ankle], positions[:, self.ankle]
        heel = ankle + rotate(turn, np.broadcast_to(self.heel, ankle.shape))
        return heel, ankle + rotate(turn, np.broadcast_to(self.ball, ankle.shape))


def feet_of(skeleton: Skeleton) -> tuple[Foot, ...]:
    """Both feet; raises InputError where a skeleton has no two legs with feet."""
    anatomy = anatomy_of(skeleton)
    feet = []
    for side, word in (("L", "Left"), ("R", "Right")):
        joints = [anatomy.joint(part, side) for part in ("upperleg", "lowerleg", "foot")]
        if min(joints) < 0 or not skeleton.chained(joints):
            raise InputError(
                f"the skeleton has no {word.lower()} leg with a foot",
                hint="A leg is a thigh, a shin and a foot, one on the other",
            )
        thigh, shin, ankle = joints
        feet.append(_foot(skeleton, word, thigh, shin, ankle, anatomy.joint("toe", side)))
    return tuple(feet)


def leg_joints(skeleton: Skeleton) -> list[int]:
    """The joints of both legs and what is above them; raises InputError without two legs."""
    wanted: set[int] = set()
    for foot in feet_of(skeleton):
        for joint in (foot.ankle, foot.toe):
            while joint >= 0:
                wanted.add(joint)
                joint = skeleton.parents[joint]
    return sorted(wanted)


def legs_alone(motion: Motion) -> tuple[Motion, list[int]]:
    """(the motion of the legs and what is above them, which joints those are): nothing else is posed where only they matter."""
    joints, full = leg_joints(motion.skeleton), motion.skeleton
    parents = tuple(joints.index(full.parents[j]) if full.parents[j] >= 0 else -1 for j in joints)
    small = Skeleton(tuple(full.names[j] for j in joints), parents, full.offsets[joints], full.rest[joints])
    return replace(motion, skeleton=small, local=motion.local[:, joints]), joints


def rest_ground(skeleton: Skeleton) -> float:
    """Metres of the ground on which a skeleton stands at rest; raises InputError without two legs."""
    rotations, positions = skeleton.global_rest()
    return float(np.mean([foot.places(rotations[None], positions[None])[0][0, 1] for foot in feet_of(skeleton)]))


def has_feet(skeleton: Skeleton) -> bool:
    """Whether it has two legs with feet."""
    try:
        feet_of(skeleton)
    except InputError:
        return False
    return True


def _foot(skeleton: Skeleton, side: str, thigh: int, shin: int, ankle: int, toe: int) -> Foot:
    rotations, at = skeleton.global_rest()
    leg = float(np.linalg.norm(at[shin] - at[thigh]) + np.linalg.norm(at[ankle] - at[shin]))
    if toe >= 0 and at[toe][1] < at[ankle][1]:
        ahead = (at[toe] - at[ankle]) * [1, 0, 1]
        floor = at[toe][1] - SOLE * float(np.linalg.norm(ahead))
        ball = at[toe] - at[ankle]
    else:  # no toe: a foot as long as those of adults with such legs
        ahead = np.array([0.0, 0.0, 0.16 * leg])
        floor = min(float(at[:, 1].min()), at[ankle][1] - 0.05 * leg)
        ball = ahead + [0, floor - at[ankle][1], 0]
    heel = np.array([0.0, floor - at[ankle][1], 0.0]) - HEEL * ahead
    own = inverse(rotations[ankle])
    clear = float(ball[1] - heel[1])
    return Foot(side, thigh, shin, ankle, toe, rotate(own, heel), rotate(own, ball), clear, leg)
