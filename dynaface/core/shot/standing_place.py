"""Where on the ground a body stands and which way it faces, and putting it elsewhere."""

from dataclasses import dataclass, replace

import numpy as np

from dynaface.core.body.rotations import Array, about, multiply, rotate
from dynaface.core.body.skeleton import Skeleton
from dynaface.core.match.rest import ahead
from dynaface.core.perform.join import RetargetedBody


@dataclass(frozen=True)
class GroundMove:
    """A turn about up in degrees, then a way (3,) in metres on the level."""

    turn: float
    way: Array

    def then(self, other: "GroundMove") -> "GroundMove":
        """This move and another one after it."""
        return GroundMove(self.turn + other.turn, rotate(about("y", other.turn), self.way) + other.way)


NOWHERE = GroundMove(0.0, np.zeros(3))


def moved_onto(one: RetargetedBody, onto: RetargetedBody, target: Skeleton) -> GroundMove:
    """The move that brings a body of one frame to where another one stands, facing its way; none where a body does not travel."""
    (turn, place), (facing, there) = _stands(one, target), _stands(onto, target)
    by = facing - turn
    return GroundMove(by, (there - rotate(about("y", by), place)) * [1.0, 0.0, 1.0])


def _stands(body: RetargetedBody, target: Skeleton) -> tuple[float, Array]:
    """(degrees about up, metres (3,)) of the first joint that moves."""
    carried = _carried(body, target)
    joint = next((j for j in np.flatnonzero(carried) if target.names[j] in body.moving), None)
    if joint is None:
        return 0.0, np.zeros(3)
    return ahead(body.turns[0, joint]), target.pose(body.local[:1], body.root[:1])[1][0, joint]


def put(body: RetargetedBody, target: Skeleton, moves: GroundMove) -> RetargetedBody:
    """A body elsewhere on the ground."""
    carried = _carried(body, target)
    if moves is NOWHERE or not carried.any():
        return body
    turn, top = about("y", moves.turn), target.index(body.root_joint)
    turns, local = body.turns.copy(), body.local.copy()
    turns[:, carried] = multiply(turn, turns[:, carried])
    local[:, top] = multiply(turn, local[:, top])
    offset = target.offsets[top]
    way = np.broadcast_to(turn, (len(local), 4))
    return replace(body, turns=turns, local=local, root=rotate(way, body.root + offset) + moves.way - offset)


def _carried(body: RetargetedBody, target: Skeleton) -> Array:
    """(joints,) which joints go along when a body goes; none where it does not travel."""
    out = np.zeros(len(target.names), bool)
    for joint, parent in enumerate(target.parents):
        out[joint] = out[parent] if parent >= 0 else target.names[joint] == body.root_joint
    return out
