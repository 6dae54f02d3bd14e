"""Everything that moves a character: cast and body on one skeleton, at the take's frames."""

from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from typing import TypeVar

import numpy as np

from dynaface.core.body.rotations import IDENTITY, Array, continuous, head_rotation, inverse, multiply, rotate, slerp
from dynaface.core.body.skeleton import Motion, Skeleton, at_rest
from dynaface.core.cast.apply import CastMotion, apply_sheet, drive_channels
from dynaface.core.cast.character import Character
from dynaface.core.cast.sheet import CastSheet
from dynaface.core.contact.find_hands import Toucher
from dynaface.core.contact.hold_hands import hold_hands
from dynaface.core.curves.channels import Channels, Floats
from dynaface.core.curves.gaps import bridged
from dynaface.core.head.lean import lean, trunk
from dynaface.core.head.neck import head_chain, local_of_chain
from dynaface.core.match.limb_bones import limbs_of
from dynaface.core.match.reached import reached
from dynaface.core.perform.head_rules import PLAIN, HeadFrame, HeadRules, head_frame, head_rules
from dynaface.core.perform.join import RetargetedBody, contacts_of, moments_of, retarget_body, touches_of, with_touches
from dynaface.core.perform.join_settings import JoinSettings
from dynaface.core.perform.whole_turns import added
from dynaface.core.shapes.standard import HEAD_ANGLES, HEAD_TRAVEL
from dynaface.core.tidy_body.step import tidy_body

T = TypeVar("T")
UNCHANGED = CastSheet()
EYES_GIVE = 30.0  # degrees that eyes turn for a look to stay


@dataclass(frozen=True)
class Performance:
    """Everything that moves a character, at the take's frames and rate.

    cast: weights of targets; joints: names of the joints that move; local: (frames, joints, 4) float32 local
    rotations; root: (frames, 3) float32 metres by which `root_joint` moves from its rest ("" where it stays);
    head_joints: those of neck, head, eyes and face; shifts: joint -> (frames, 3) float32 metres from its rest, in the frame
    of the joint above it.
    """

    channels: Channels
    cast: CastMotion
    joints: tuple[str, ...]
    local: Floats
    root: Floats
    root_joint: str
    head_joints: tuple[str, ...]
    shifts: Mapping[str, Floats] = field(default_factory=dict)

    @property
    def moved(self) -> Mapping[str, Floats]:
        """joint -> (frames, 3) metres by which it moves from its rest, the one that travels included."""
        return {**self.shifts, self.root_joint: self.root} if self.root_joint else self.shifts

    def rows(self, own: slice) -> "Performance":
        """Some of its frames; the channels keep what they say of their start."""
        channels = replace(self.channels, values=self.channels.values[own])
        shifts = {joint: np.asarray(shift)[own] for joint, shift in self.shifts.items()}
        return replace(self, channels=channels, cast=self.cast.rows(own), local=self.local[own], root=self.root[own], shifts=shifts)  # fmt: skip

    def motion(self, skeleton: Skeleton) -> Motion:
        """All joints of its character's skeleton in motion."""
        local, root = at_rest(skeleton, self.channels.frames)
        for number, joint in enumerate(self.joints):
            local[:, skeleton.index(joint)] = self.local[:, number]
        if self.root_joint:
            root = self.root.astype(np.float64)
        return Motion(skeleton, local, root, self.channels.rate, self.channels.timecode)


def head_of(channels: Channels, sheet: CastSheet) -> tuple[Array, Array]:
    """The face take's head rotation (frames, 4) as a sheet has its angles, gaps bridged, and whether it has any (frames,) as 0
    or 1.
    """
    own = replace(channels, names=HEAD_ANGLES, values=np.stack([channels.column(n) for n in HEAD_ANGLES], axis=1))
    angles = drive_channels(own, sheet)
    known = float(any(n in channels.names for n in HEAD_ANGLES))
    return head_rotation(*angles.T.astype(np.float64)), np.full(channels.frames, known)


def head_travel(channels: Channels) -> Array:
    """(frames, 3) millimetres of the head's travel, gaps bridged; 0 where none is known."""
    return bridged(np.stack([channels.column(n) for n in HEAD_TRAVEL], axis=1)).astype(np.float64)


def perform(
    channels: Channels, character: Character, cast: CastMotion, body: RetargetedBody, sheet: CastSheet = UNCHANGED,
    head_weight: Array | None = None, leaning: float = 0.0, steady: bool = False, frame: HeadFrame | None = None,
) -> Performance:  # fmt: skip
    """A cast and a body on one skeleton. sheet: what it says of the head's angles counts; head_weight (frames,), leaning and steady (its
    `look`) as in JoinSettings; head_weight is None where there is no body: then the neck is the face take's alone; frame: by
    what the head turns, None for its neck alone, against the chest.
    """
    target = character.skeleton
    frames = channels.frames
    if target is None or frames == 0:
        none = np.zeros((frames, 0, 4), np.float32)
        return Performance(channels, cast, (), none, np.zeros((frames, 3), np.float32), "", ())
    moving = set(body.moving)
    frame = frame or HeadFrame(tuple(head_chain(target)))
    chain = list(frame.chain)
    turns, stance = body.turns, body.local
    if leaning and chain:
        turns, stance = lean(target, turns, stance, head_travel(channels) * leaning)
        moving |= {target.names[j] for j in trunk(target)}
    local = stance.astype(np.float32)
    astray: Array | None = None
    if chain:
        head, known = head_of(channels, sheet)
        known = known * (not frame.unseen)
        base = target.carrier(chain[0], turns)
        head = frame.asked(head, target.carrier(chain[0], body.turns))
        if leaning:  # the trunk leans, and the head goes on looking where it looked
            head = multiply(inverse(base), multiply(target.carrier(chain[0], body.turns), head))
        weight = known if head_weight is None else known * np.clip(head_weight, 0, 1)
        necks = frame.laid(turns, base, head, weight)
        local[:, chain] = continuous(local_of_chain(target, base, chain, necks))
        if steady and head_weight is not None:
            astray = look_astray(multiply(inverse(base), necks[:, -1]), head, known)
    upper = {target.names[j] for j in chain} | set(cast.eyes) | (set(cast.turns) - cast.whole)
    moving |= upper | cast.whole
    for joint, turn in cast.eyes.items():
        index = target.index(joint)
        turn = multiply(astray, turn) if astray is not None else turn
        local[:, index] = continuous(_in_joint_frame(target, index, turn, body.local[:, index]))
    for joint in cast.turns:
        index = target.index(joint)
        local[:, index] = continuous(multiply(local[:, index].astype(np.float64), added(cast, joint, body, target)))
    shifts = {
        joint: rotate(target.rest[target.index(joint)], shift).astype(np.float32)
        for joint, shift in cast.shifts.items()
    }
    root = body.root
    if body.root_joint in shifts:  # of the joint that travels, a slide goes on top of the travel
        root = root + shifts.pop(body.root_joint)
    if body.touching is not None:
        surface = character.study.head if character.study else None
        who = Toucher.of(target, surface)
        held = hold_hands(who, local.astype(np.float64), root, body.touching, channels.rate)
        local = held.astype(np.float32)
    if cast.reaches:
        local = reached(target, local.astype(np.float64), root, cast.reaches).astype(np.float32)
        limbs = limbs_of(target)
        moving |= {target.names[joint] for limb in cast.reaches for joint in limbs.get(limb, ())}
    order = [i for i, n in enumerate(target.names) if n in moving]
    return Performance(
        channels,
        cast,
        tuple(target.names[i] for i in order),
        local[:, order],
        root.astype(np.float32),
        body.root_joint,
        tuple(n for n in target.names if n in upper),
        shifts,
    )


def look_astray(shown: Array, captured: Array, known: Array) -> Array:
    """(frames, 4) by which eyes turn in the head for a look to stay where it was when the head is turned otherwise than it was captured, by
    `EYES_GIVE` at most. shown, captured: (frames, 4) turns of the head against the chest; known: (frames,) 0 where none was captured.
    """
    back = multiply(inverse(shown), captured)
    angle = 2 * np.degrees(np.arccos(np.clip(np.abs(back[:, 3]), 0, 1)))
    share = np.minimum(1, EYES_GIVE / np.maximum(angle, 1e-9)) * known
    return slerp(IDENTITY, back, share)


def perform_take(
    channels: Channels,
    character: Character,
    sheet: CastSheet,
    body: Motion | None = None,
    settings: JoinSettings | None = None,
    hands: Motion | None = None,
) -> Performance:
    """Channels on a character by its sheet, with a body take where there is one, and another for its fingers."""
    settings = settings or JoinSettings()
    body = body and tidy_body(body, settings.tidy)
    contacts = contacts_of(body) if settings.feet else ()
    moved = retarget_body(channels, character.skeleton, body, settings, contacts, hands)
    if settings.touch:
        moved = with_touches(moved, moments_of(channels), body, settings, touches_of(body))
    weight = settings.head_weight.at(channels.frames) if body is not None else None
    cast = apply_sheet(channels, character, sheet)
    head, steady = head_part(sheet), settings.look == "world"
    frame = frame_of(channels, character, head_rules(settings), moved, head)
    return perform(channels, character, cast, moved, head, weight, settings.lean, steady, frame)


def frame_of(
    channels: Channels, character: Character, rules: HeadRules, body: RetargetedBody, sheet: CastSheet
) -> HeadFrame | None:
    """By what the head turns, from all frames of a take or role; None where it is as ever, or there is no skeleton."""
    if character.skeleton is None or rules == PLAIN:
        return None
    return head_frame(character.skeleton, rules, body, head_of(channels, sheet)[0])


def head_part(sheet: CastSheet) -> CastSheet:
    """What a sheet says of the head's angles, and nothing else: equal wherever the head moves alike."""

    def own(table: Mapping[str, T]) -> dict[str, T]:
        return {name: table[name] for name in HEAD_ANGLES if name in table}

    region = {"head": sheet.region_strength["head"]} if "head" in sheet.region_strength else {}
    return CastSheet(region_strength=region, shape_strength=own(sheet.shape_strength), below=own(sheet.below), bend=own(sheet.bend),
                     shape_offset=own(sheet.shape_offset), shape_limit=own(sheet.shape_limit))  # fmt: skip


def _in_joint_frame(skeleton: Skeleton, joint: int, turn: Array, local: Array) -> Array:
    """An eye turns in the head's frame, so its turn is carried into the joint's own."""
    rest, _ = skeleton.global_rest()
    return multiply(local, multiply(multiply(inverse(rest[joint]), turn), rest[joint]))
