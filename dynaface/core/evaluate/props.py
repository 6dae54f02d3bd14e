"""The props of a shot in the graphs of its roles: where each goes, and the arms of those who hold it."""

from collections.abc import Mapping
from dataclasses import dataclass, replace
from fractions import Fraction
from typing import Any

from dynaface.core.cast.character import Character
from dynaface.core.evaluate.node import Node
from dynaface.core.evaluate.shot import RoleGraph
from dynaface.core.identity import content_key
from dynaface.core.perform.held_props import HeldProps, Standing, hold_props, holder_of, with_arms
from dynaface.core.perform.join import RetargetedBody
from dynaface.core.perform.perform import Performance
from dynaface.core.prop.prop import PlacedProp, PropShape


@dataclass(frozen=True)
class Holding:
    """A role that holds props: its performance with free hands, or its body alone, its character, where it stands."""

    moved: Node[Performance] | Node[RetargetedBody]
    character: Node[Character]
    where: Standing


@dataclass(frozen=True)
class PropFound:
    """A prop of a shot. source: what its shape was read from, equal for equal content."""

    placed: PlacedProp
    source: str
    shape: PropShape


def props_of_shot(props: Mapping[str, PropFound], holding: Mapping[str, Holding], frames: int, rate: Fraction) -> Node[HeldProps]:  # fmt: skip
    """Where all props go, from how all roles move that hold any."""
    roles = sorted(holding)
    said = [(key, p.placed, p.source) for key, p in sorted(props.items())]
    stands = [(role, holding[role].where, holding[role].moved.key, holding[role].character.key) for role in roles]
    shapes = {key: (p.placed, p.shape) for key, p in props.items()}

    def make(*given: Any) -> HeldProps:
        pairs = zip(roles, given[::2], given[1::2], strict=True)
        made = {role: holder_of(moved, rig, holding[role].where) for role, moved, rig in pairs}
        return hold_props(shapes, {role: h for role, h in made.items() if h is not None}, frames, rate)

    inputs = [node for role in roles for node in (holding[role].moved, holding[role].character)]
    return Node(content_key("props", said, stands, frames, rate), make, tuple(inputs))


def with_props(graph: RoleGraph, role: str, props: Node[HeldProps], character: Node[Character] | None) -> RoleGraph:
    """A role's graph in a shot with props: its hands hold what they are to hold."""
    if graph.performed is None or character is None:
        return replace(graph, props=props)
    held = Node(
        content_key("hands that hold", graph.performed.key, role, props.key),
        lambda made, all_props, rig: with_arms(made, rig.skeleton, all_props.arms.get(role, {})),
        (graph.performed, props, character),
    )
    return replace(graph, performed=held, props=props, role=role)
