"""Fingers of one take on the wrists of another: how each finger is turned against its hand is taken over, the hand stays the body's."""

from dynaface.core.body.rotations import Array, inverse, multiply
from dynaface.core.body.skeleton import Skeleton
from dynaface.core.match.anatomy import anatomy_of
from dynaface.core.match.retarget import Matching

SIDES = {"both": ("L", "R"), "left": ("L",), "right": ("R",)}


def with_hands(
    target: Skeleton, turns: Array, fingers: Array, matching: Matching, sides: str
) -> tuple[Array, frozenset[str]]:
    """(world turns with those hands, joints that they move). turns, fingers: (frames, joints, 4) world turns from rest of the target by the
    body and by the take of hands; matching: of the latter; sides: of `SIDES`.
    """
    out = turns.copy()
    moved: set[str] = set()
    anatomy = anatomy_of(target)
    for side in SIDES[sides]:
        hand = anatomy.joint("hand", side)
        if hand < 0:
            continue
        against = multiply(turns[:, hand], inverse(fingers[:, hand]))
        inside = {hand}
        for joint in range(hand + 1, len(target.names)):
            parent = target.parents[joint]
            if parent not in inside:
                continue
            inside.add(joint)
            if target.names[joint] in matching.matches:
                out[:, joint] = multiply(against, fingers[:, joint])
                moved.add(target.names[joint])
            else:
                out[:, joint] = out[:, parent]
    return out, frozenset(moved)
