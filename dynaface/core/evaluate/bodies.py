"""The bodies of a role in its graph: each placement through its take's join, then all of them on the character's ground."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from fractions import Fraction

from dynaface.core.body.skeleton import Motion, Skeleton
from dynaface.core.cast.character import Character
from dynaface.core.contact.find_feet import Spans
from dynaface.core.evaluate.node import Node, constant
from dynaface.core.evaluate.take import foot_contacts, hand_touches, tidied_body, without_head
from dynaface.core.head.eyes import Eyes
from dynaface.core.head.head_carried import HeadCarried, carried_head
from dynaface.core.identity import content_key
from dynaface.core.perform.join import RetargetedBody, still_body
from dynaface.core.shot.body_lane import LaidBodies, held_bodies, lay_bodies
from dynaface.core.shot.placed_body import BodyTake, PlacedBody, carry_placed
from dynaface.core.shot.placement import Placement


@dataclass(frozen=True)
class PlacedSource:
    """A placement with the body that its take has. follows: whether it begins where the one before it stands."""

    placement: Placement
    follows: bool
    take: BodyTake
    body: Node[Motion | None]
    hands: Node[Motion | None]


def placed_body(one: PlacedSource, character: Node[Character], rate: Fraction, frames: int) -> Node[PlacedBody]:
    """A placed body on the character at the shot's frames."""
    # Who moves the head is said by the role, not by each of its takes.
    take = replace(one.take, settings=without_head(one.take.settings))
    motion = tidied_body(one.body, one.take.settings)
    contacts = foot_contacts(motion)
    touches: Node[dict[str, Spans]] = hand_touches(motion) if take.settings.touch else constant("no touches", {})
    key = content_key("placed body", one.placement.key, one.follows, take, motion.key, one.hands.key, character.key, rate, frames)  # fmt: skip
    return Node(
        key,
        lambda rig, body, hands, found, touches: carry_placed(
            one.placement, one.follows, take, _bones(rig), body, hands, found, touches, rate, frames
        ),
        (character, motion, one.hands, contacts, touches),
    )


def bodies_of_role(
    placed: Sequence[PlacedSource], character: Node[Character], rate: Fraction, frames: int
) -> Node[RetargetedBody]:
    """All bodies of a role, with feet that stand where their takes' joins say so."""
    nodes = tuple(placed_body(one, character, rate, frames) for one in placed)
    laid: Node[LaidBodies] = Node(
        content_key("body lanes", [n.key for n in nodes], rate, frames, character.key),
        lambda rig, *given: lay_bodies(given, _bones(rig), rate, frames),
        (character, *nodes),
    )
    return Node(
        content_key("bodies standing", laid.key),
        lambda rig, bodies: held_bodies(bodies, _bones(rig), rate),
        (character, laid),
    )


def body_of_role(
    placed: Sequence[PlacedSource], character: Node[Character], rate: Fraction, frames: int
) -> Node[RetargetedBody]:
    """All bodies of a role, or its character at rest where it has none."""
    if placed:
        return bodies_of_role(placed, character, rate, frames)
    return Node(content_key("still", character.key, frames), lambda rig: still_body(rig.skeleton, frames), (character,))


def head_carried(body: Node[RetargetedBody], character: Node[Character], eyes: Eyes) -> Node[HeadCarried]:
    """Where a body carries the head of its character, and how it turns it."""
    key = content_key("head carried", body.key, character.key, eyes)
    return Node(
        key, lambda moved, rig: carried_head(_bones(rig), moved.turns, moved.local, moved.root, eyes), (body, character)
    )


def _bones(character: Character) -> Skeleton:
    assert character.skeleton is not None  # the caller leaves bodies out where there is none
    return character.skeleton
