"""The graph of one role of a shot: takes -> lanes of clips -> capture weight -> layers -> cast sheet -> touch-up layers -> performance."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from fractions import Fraction

import numpy as np

from dynaface.core.cast.apply import CastMotion, cast_channels, limited
from dynaface.core.cast.character import Character
from dynaface.core.cast.rig_curves import rig_curves, with_rig_curves
from dynaface.core.cast.sheet import CastSheet
from dynaface.core.clock.timecode import Timecode
from dynaface.core.curves.channels import Channels
from dynaface.core.evaluate.bodies import PlacedSource, body_of_role
from dynaface.core.evaluate.node import Node, constant
from dynaface.core.evaluate.take import framed, on_character
from dynaface.core.identity import content_key
from dynaface.core.layers.around import NOTHING, Around
from dynaface.core.layers.layer import Layer, apply_layer, weaken_capture, widened
from dynaface.core.layers.weight import Amounts, Weight
from dynaface.core.perform.head_rules import PLAIN, HeadFrame, head_rules
from dynaface.core.perform.held_props import HeldProps
from dynaface.core.perform.join import RetargetedBody
from dynaface.core.perform.perform import Performance, head_part, perform
from dynaface.core.perform.whole_turns import turned_joints, with_whole_turns
from dynaface.core.shapes.rig import in_order
from dynaface.core.shot.lane import covered, lay
from dynaface.core.shot.placement import Placement

NOBODY = constant("nothing around", NOTHING)


@dataclass(frozen=True)
class RoleGraph:
    """Nodes of a role. lanes: what the clips give; raw: the same with the channels that layers bring, at rest; weakened: by the capture's weight; tidied: with all layers; cast, performed: on the
    character, None where there is none; layered: after each layer, bottom up; body: the character without its face; head: how much of its head the
    face moves where there is a body, None where there is none; frame: by what the head turns; free: the cast
    before touch-up layers and limits, None where there are none; rig_raw, rig: the
    channels of the rig that are asked for, without touch-up layers and with all; props: all props of the shot, of which `role` holds some; None
    without any. The names of the nodes that a page asks for are those of a take.
    """

    lanes: Node[Channels]
    raw: Node[Channels]
    weakened: Node[Channels]
    tidied: Node[Channels]
    cast: Node[CastMotion] | None = None
    performed: Node[Performance] | None = None
    layered: tuple[Node[Channels], ...] = ()
    body: Node[RetargetedBody] | None = None
    head: Node[Amounts] | None = None
    frame: Node[HeadFrame | None] | None = None
    free: Node[CastMotion] | None = None
    rig_raw: Node[Channels] | None = None
    rig: Node[Channels] | None = None
    props: Node[HeldProps] | None = None
    role: str = ""


@dataclass(frozen=True)
class OnRig:
    """What acts on a character's own rig. touchups: layers, bottom up; shown: channels of the rig that are asked for; bodies: those that are
    placed; head_weight, lean, look: as in `JoinSettings`.
    """

    touchups: Sequence[Layer] = ()
    shown: Sequence[str] = ()
    bodies: Sequence[PlacedSource] = ()
    head_weight: Weight = field(default_factory=Weight)
    lean: float = 0.0
    look: str = "head"


UNTOUCHED = OnRig()


def lanes(placed: Sequence[tuple[Placement, Node[Channels]]], rate: Fraction, frames: int,
          timecode: Timecode | None = None) -> Node[Channels]:  # fmt: skip
    """Placements with their takes, laid at the shot's frames."""
    plain = [(p.key, node.key) for p, node in placed]
    takes = tuple(node for _, node in placed)
    return Node(
        content_key("lanes", plain, rate, frames, timecode),
        lambda *given: lay([(p, c) for (p, _), c in zip(placed, given, strict=True)], rate, frames, timecode),
        takes,
    )


def on_layer(beneath: Node[Channels], layer: Layer, around: Node[Around] = NOBODY) -> Node[Channels]:
    """One layer on what is beneath; around: what its makers see, if any of them looks."""
    if not layer.needs:
        key = content_key("layer", beneath.key, layer.key)
        return Node(key, lambda channels: apply_layer(channels, layer), (beneath,))
    key = content_key("layer", beneath.key, layer.key, around.key)
    return Node(key, lambda channels, seen: apply_layer(channels, layer, seen), (beneath, around))


def role_graph(
    placed: Sequence[tuple[Placement, Node[Channels]]],
    rate: Fraction,
    frames: int,
    capture: Mapping[str, Weight],
    layers: Sequence[Layer],
    character: Node[Character] | None = None,
    sheet: CastSheet | None = None,
    timecode: Timecode | None = None,
    around: Node[Around] = NOBODY,
    on_rig: OnRig = OnRig(),
) -> RoleGraph:
    """The graph of a role; layers bottom up, those that are mute left out by the caller; timecode: of the shot's frame 0; around: what
    makers see.
    """
    laid = lanes(placed, rate, frames, timecode)
    weakened = laid
    if any(not w.full for w in capture.values()):
        key = content_key("capture weight", laid.key, {r: w.described for r, w in capture.items()})
        weakened = Node(key, lambda channels: weaken_capture(channels, capture), (laid,))
    layered: list[Node[Channels]] = []
    for layer in layers:
        layered.append(on_layer(layered[-1] if layered else weakened, layer, around))
    result = layered[-1] if layered else weakened
    raw = Node(content_key("as wide", laid.key, result.key), _as_wide, (laid, result)) if layers else laid
    if character is None:
        return RoleGraph(laid, raw, weakened, result, layered=tuple(layered))
    sheet = sheet or CastSheet()
    cast = plain = on_character(result, character, sheet)
    head = _head_share([p for p, _ in placed], rate, frames, on_rig.head_weight) if on_rig.bodies else None
    body = body_of_role(on_rig.bodies, character, rate, frames)
    free: Node[CastMotion] | None = None
    if on_rig.touchups:
        free, cast = _touched_up(result, character, sheet, body, on_rig.touchups, rate)
    own, lean, steady = head_part(sheet), on_rig.lean, on_rig.look == "world"
    # As the first of its takes is joined; what layers do to the head is no part of what a camera saw.
    rules = head_rules(on_rig.bodies[0].take.settings) if on_rig.bodies else PLAIN
    frame = framed(laid, character, body, rules, own)
    performed = Node(
        content_key("perform", result.key, cast.key, body.key, own, head and (head.key, steady), lean, frame.key),
        lambda channels, rig, made, moved, share, found: perform(
            channels, rig, made, moved, own, share, lean, steady, found
        ),
        (result, character, cast, body, head or constant("no head share", None), frame),
    )
    shown = [
        _shown(whole_turns(made, body, character, on_rig.shown), on_rig.shown, rate) if on_rig.shown else None
        for made in (plain, cast)
    ]
    return RoleGraph(
        laid, raw, weakened, result, cast, performed, tuple(layered), body, head, frame, free, shown[0], shown[1]
    )


def _head_share(placed: Sequence[Placement], rate: Fraction, frames: int, weight: Weight) -> Node[Amounts]:
    """How much of the head the face moves: as it is asked for, and where no face is, none."""
    key = content_key("head share", [p.key for p in placed], rate, frames, weight.described)
    return Node(key, lambda: covered(placed, rate, frames) * np.clip(weight.at(frames), 0, 1), ())


def touched_channels(layers: Sequence[Layer]) -> tuple[str, ...]:
    """The channels of the rig that touch-up layers act on."""
    return in_order({name for layer in layers for name in layer.channels})


def whole_turns(
    made: Node[CastMotion], body: Node[RetargetedBody], character: Node[Character], names: Sequence[str]
) -> Node[CastMotion]:
    """The cast with the whole angle of those joints that are among channels of the rig."""
    joints = turned_joints(names)
    if not joints:
        return made
    return Node(
        content_key("whole turns", made.key, body.key, character.key, joints),
        lambda motion, moved, rig: with_whole_turns(motion, moved, rig.skeleton, joints),
        (made, body, character),
    )


def _touched_up(result: Node[Channels], character: Node[Character], sheet: CastSheet, body: Node[RetargetedBody],
                layers: Sequence[Layer], rate: Fraction) -> tuple[Node[CastMotion], Node[CastMotion]]:  # fmt: skip
    """(the cast before its limits, the cast with touch-up layers)."""
    free = Node(
        content_key("free cast", result.key, character.key, sheet),
        lambda channels, rig: cast_channels(channels, rig, sheet),
        (result, character),
    )
    names = touched_channels(layers)
    beneath = whole_turns(free, body, character, names)
    touched = _shown(beneath, names, rate)
    for layer in layers:
        touched = on_layer(touched, layer)
    cast = Node(
        content_key("touched cast", beneath.key, touched.key),
        lambda made, curves, rig: limited(with_rig_curves(made, curves, rig), sheet),
        (beneath, touched, character),
    )
    return free, cast


def _shown(made: Node[CastMotion], names: Sequence[str], rate: Fraction) -> Node[Channels]:
    key = content_key("rig", made.key, names)
    return Node(key, lambda motion: rig_curves(motion, names, rate), (made,))


def _as_wide(laid: Channels, result: Channels) -> Channels:
    """The clips with the result's channels in its order, those that only layers bring at rest."""
    if laid.names == result.names:
        return laid
    wide = widened(laid, result.names)
    return replace(wide, names=result.names, values=wide.values[:, [wide.names.index(n) for n in result.names]])
