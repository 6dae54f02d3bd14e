"""The graph of one take: recording -> even time -> tidy stack -> by hand -> cast sheet -> join."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

import numpy as np

from dynaface.core.body.skeleton import Motion
from dynaface.core.cast.apply import CastMotion, apply_sheet
from dynaface.core.cast.character import Character
from dynaface.core.cast.sheet import CastSheet
from dynaface.core.contact.by_hand import SIDES, of_sides
from dynaface.core.contact.find_feet import FootContacts, Spans
from dynaface.core.contact.find_hands import TOUCHES
from dynaface.core.curves.channels import Channels, Recording
from dynaface.core.curves.held import Held
from dynaface.core.curves.keys import key_table
from dynaface.core.evaluate.node import WHOLE, Node, constant
from dynaface.core.identity import content_key
from dynaface.core.perform.head_rules import PLAIN, HeadFrame, HeadRules, head_rules
from dynaface.core.perform.join import (
    RetargetedBody,
    carried_body,
    contacts_of,
    moments_of,
    standing_body,
    touches_of,
    with_touches,
)
from dynaface.core.perform.join_settings import OF_HEAD, JoinSettings
from dynaface.core.perform.joint_curves import joint_curves
from dynaface.core.perform.perform import Performance, frame_of, head_part, perform
from dynaface.core.tidy.hand import apply_hand
from dynaface.core.tidy.stack import Placed, retime, run_step
from dynaface.core.tidy_body.step import tidy_body


@dataclass(frozen=True)
class TakeGraph:
    """Nodes of a take. raw: the source evened out in time and nothing else; stacked: after the tidy stack; tidied: with
    what was done by hand; cast: on the character's targets; body: retargeted to its skeleton; performed: all of it; frame: by what the head turns;
    joints: curves of the joints that are asked for; carried: the body before its feet stand. The last six are None where there is no
    character, joints where none is asked for.
    """

    raw: Node[Channels]
    stacked: Node[Channels]
    tidied: Node[Channels]
    cast: Node[CastMotion] | None = None
    body: Node[RetargetedBody] | None = None
    performed: Node[Performance] | None = None
    frame: Node[HeadFrame | None] | None = None
    joints: Node[Channels] | None = None
    carried: Node[RetargetedBody] | None = None


def even_out(recording: Node[Recording], step: Placed) -> Node[Channels]:
    """The recording at one rate."""
    key = content_key("even out", recording.key, step.step.name, step.parameters, step.where)
    return Node(key, lambda source: retime(source, step), (recording,))


def tidy_step(before: Node[Channels], step: Placed, rate: float) -> Node[Channels]:
    """One step of a stack on what is before it. rate: frames per second, on which the step's halo depends."""
    key = content_key("step", before.key, step.step.name, step.parameters, step.where)
    return Node(key, lambda channels: run_step(channels, step), (before,), _halo(step, rate))


def _halo(step: Placed, rate: float) -> int:
    """Frames of the input that a frame depends on; a step that acts in places speaks of frames of the whole take."""
    if not step.where.everywhere or step.step.within is not None or step.step.kind == "key-making":
        return WHOLE
    return step.step.halo(step.parameters, rate)


def by_hand(stacked: Node[Channels], hand: Mapping[str, Held]) -> Node[Channels]:
    """With the keys that were set by hand."""
    if not hand:
        return stacked
    content = {channel: (h.mode, key_table(h.keys)) for channel, h in hand.items()}
    return Node(content_key("by hand", stacked.key, content), lambda channels: apply_hand(channels, hand), (stacked,))


def on_character(tidied: Node[Channels], character: Node[Character], sheet: CastSheet) -> Node[CastMotion]:
    """Channels on a character's targets and joints."""
    key = content_key("cast", tidied.key, character.key, sheet)
    return Node(key, lambda channels, rig: apply_sheet(channels, rig, sheet), (tidied, character))


def tidied_body(body: Node[Motion | None], settings: JoinSettings) -> Node[Motion | None]:
    """A body take through the steps of its join."""
    steps = [s for s in settings.tidy if s.on]
    if not steps:
        return body
    key = content_key("tidy body", body.key, [s.described for s in steps])
    return Node(key, lambda motion: motion and tidy_body(motion, steps), (body,))


def foot_contacts(body: Node[Motion | None]) -> Node[tuple[FootContacts, ...]]:
    """When the feet of a body take stand, in its own frames: no setting of a join changes that."""
    return Node(content_key("foot contacts", body.key), contacts_of, (body,))


def hand_touches(body: Node[Motion | None]) -> Node[dict[str, Spans]]:
    """When the hands of a body take touch, in its own frames."""
    return Node(content_key("hand touches", body.key), touches_of, (body,))


def retargeted(raw: Node[Channels], character: Node[Character], body: Node[Motion | None], settings: JoinSettings,
               hands: Node[Motion | None] | None = None) -> Node[RetargetedBody]:  # fmt: skip
    """The body take on the character's skeleton, at the frames of the face take; who moves the head is no part of it, nor is leaning. hands:
    another take for the fingers.
    """
    body = tidied_body(body, settings)
    return _settled(_carried(raw, character, body, settings, hands), raw, character, body, settings)


def _settled(carried: Node[RetargetedBody], raw: Node[Channels], character: Node[Character], body: Node[Motion | None],
             settings: JoinSettings) -> Node[RetargetedBody]:  # fmt: skip
    """The body, tidied already, with feet that stand and what hands are to touch."""
    own, stood = without_head(settings), carried
    if own.feet:
        stood = Node(
            content_key("standing", carried.key, of_sides(own.contacts, SIDES), own.floor),
            lambda moved, channels, rig, motion, found: standing_body(
                moved, moments_of(channels), rig.skeleton, motion, own, found
            ),
            (carried, raw, character, body, foot_contacts(body)),
        )
    if not own.touch:
        return stood
    return Node(
        content_key("touching", stood.key, of_sides(own.contacts, TOUCHES)),
        lambda moved, channels, motion, found: with_touches(moved, moments_of(channels), motion, own, found),
        (stood, raw, body, hand_touches(body)),
    )


def _carried(raw: Node[Channels], character: Node[Character], body: Node[Motion | None], settings: JoinSettings,
             hands: Node[Motion | None] | None) -> Node[RetargetedBody]:  # fmt: skip
    """The body, tidied already, with feet and hands as they come."""
    free = replace(without_head(settings), feet=False, touch=False, contacts={}, floor=0.0)
    hands = hands or constant("no body", None)
    return Node(
        content_key("retarget", raw.key, character.key, body.key, free, hands.key),
        lambda channels, rig, motion, fingers: carried_body(moments_of(channels), rig.skeleton, motion, free, fingers),
        (raw, character, body, hands),
    )


def without_head(settings: JoinSettings) -> JoinSettings:
    """A join of a body that is tidied, without what it says of the head, which is no part of the body."""
    plain = JoinSettings()
    return replace(settings, tidy=(), lean=0.0, **{n: getattr(plain, n) for n in OF_HEAD})


def framed(
    channels: Node[Channels], character: Node[Character], body: Node[RetargetedBody], rules: HeadRules, sheet: CastSheet
) -> Node[HeadFrame | None]:
    """By what the head turns; sheet: of its angles."""
    if rules == PLAIN:
        return constant("plain head frame", None)
    key = content_key("head frame", channels.key, character.key, body.key, rules, sheet)
    return Node(key, lambda given, rig, moved: frame_of(given, rig, rules, moved, sheet), (channels, character, body))


def take_graph(
    raw: Node[Channels],
    rate: float,
    steps: Sequence[Placed],
    hand: Mapping[str, Held],
    character: Node[Character] | None = None,
    sheet: CastSheet | None = None,
    body: Node[Motion | None] | None = None,
    settings: JoinSettings | None = None,
    hands: Node[Motion | None] | None = None,
    joints: Sequence[str] = (),
) -> TakeGraph:
    """The graph of a take. raw: the recording evened out, at `rate` frames per second; steps: those that follow, of which
    those that are switched off are left out; body, hands: None where the take has none; joints: of which curves are asked for.
    """
    stacked = raw
    for step in steps:
        if step.on:
            stacked = tidy_step(stacked, step, rate)
    tidied = by_hand(stacked, hand)
    if character is None:
        return TakeGraph(raw, stacked, tidied)
    sheet, settings = sheet or CastSheet(), settings or JoinSettings()
    cast = on_character(tidied, character, sheet)
    given = tidied_body(body or constant("no body", None), settings)
    carried = _carried(raw, character, given, settings, hands)
    moved = _settled(carried, raw, character, given, settings)
    weight = settings.head_weight if body is not None else None
    head = head_part(sheet)
    steady = settings.look == "world"
    frame = framed(tidied, character, moved, head_rules(settings), head)
    key = content_key(
        "perform", tidied.key, cast.key, moved.key, head, weight and weight.described, settings.lean, steady, frame.key
    )
    performed = Node(
        key,
        lambda channels, rig, made, moved, found: perform(
            channels,
            rig,
            made,
            moved,
            head,
            weight.at(channels.frames) if weight else None,
            settings.lean,
            steady,
            found,
        ),
        (tidied, character, cast, moved, frame),
    )
    return TakeGraph(
        raw, stacked, tidied, cast, moved, performed, frame, _joints(performed, character, joints), carried
    )


def _joints(performed: Node[Performance], character: Node[Character], joints: Sequence[str]) -> Node[Channels] | None:
    if not joints:
        return None

    def curves(made: Performance, rig: Character) -> Channels:
        none = Channels((), np.zeros((made.channels.frames, 0), np.float32), made.channels.rate)
        return joint_curves(made, rig.skeleton, joints) if rig.skeleton else none

    return Node(content_key("joint curves", performed.key, list(joints)), curves, (performed, character))
