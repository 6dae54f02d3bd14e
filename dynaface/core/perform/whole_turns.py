"""Joints that a body moves, for layers that touch them up: their whole angle against rest, so that a layer can stand in its place."""

from collections.abc import Iterable
from dataclasses import replace

from dynaface.core.body.rotations import Array, inverse, multiply
from dynaface.core.body.skeleton import Skeleton
from dynaface.core.cast.apply import CastMotion
from dynaface.core.head.neck import head_chain
from dynaface.core.perform.join import RetargetedBody
from dynaface.core.shapes.rig import rig_channel


def turned_joints(names: Iterable[str]) -> tuple[str, ...]:
    """The joints whose angles are among channels of a rig, in their order."""
    found = (rig_channel(name) for name in names)
    return tuple(dict.fromkeys(c.of for c in found if c is not None and c.part == "turn"))


def with_whole_turns(
    made: CastMotion, body: RetargetedBody, skeleton: Skeleton | None, joints: Iterable[str]
) -> CastMotion:
    """The motion with the whole angle of those joints that the body moves, of the same frames. Neck and head keep what the cast adds: who
    turns them is a matter of the head's share.
    """
    if skeleton is None:
        return made
    carried = {skeleton.names[j] for j in head_chain(skeleton)}
    own = [j for j in joints if j in body.moving and j not in carried and j not in made.whole]
    if not own:
        return made
    turns = dict(made.turns)
    for joint in own:
        index = skeleton.index(joint)
        stance = multiply(inverse(skeleton.rest[index]), body.local[:, index])
        turns[joint] = multiply(stance, turns[joint]) if joint in turns else stance
    return replace(made, turns=turns, whole=made.whole | frozenset(own))


def added(made: CastMotion, joint: str, body: RetargetedBody, skeleton: Skeleton) -> Array:
    """(frames, 4) by which a joint is turned beyond what the body does with it."""
    turn = made.turns[joint]
    if joint not in made.whole:
        return turn
    index = skeleton.index(joint)
    return multiply(inverse(body.local[:, index]), multiply(skeleton.rest[index], turn))
