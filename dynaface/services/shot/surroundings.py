"""What the makers of a role see: its eyes, the aims of the shot from where it stands, and the words that it speaks."""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from fractions import Fraction
from typing import Any

import numpy as np

from dynaface.core.body.rotations import about, rotate
from dynaface.core.cast.character import Character
from dynaface.core.curves.channels import Channels
from dynaface.core.documents.model.shot import AimEntry, Role, ShotBody
from dynaface.core.evaluate.node import Node
from dynaface.core.head.eyes import PERSON, Eyes, eyes_at_rest
from dynaface.core.head.head_carried import HeadCarried
from dynaface.core.identity import content_key
from dynaface.core.layers.around import Aim, Around
from dynaface.core.layers.gaze import head_turns
from dynaface.core.layers.profile import Profile
from dynaface.core.layers.weight import Amounts
from dynaface.core.perform.held_props import HeldProps
from dynaface.core.speech.words import Word
from dynaface.services.shot.snapshot import ShotDocuments


@dataclass(frozen=True)
class Other:
    """Another role that is looked at: what its clips give, its eyes, and how its body carries them, where it has one."""

    role: Role
    eyes: Eyes
    lanes: Node[Channels]
    carried: Node[HeadCarried | None]


def eyes_of(character: Character | None) -> Eyes:
    """Where the eyes of a character are; a person's where there is none."""
    if character is None:
        return PERSON
    return eyes_at_rest(character.skeleton, character.eye_joint("left"), character.eye_joint("right"))


def surroundings(
    shot: ShotBody, role: Role, eyes: Eyes, carried: Node[HeadCarried | None], others: Mapping[str, Other], words: Sequence[Word],
    profiles: Mapping[str, Profile], props: Node[HeldProps],
) -> Node[Around]:  # fmt: skip
    """The node of what is around a role; carried: how its body carries its head, None without one; others: by role, those that aims name;
    profiles: of blinks; props: where those of the shot go as bodies carry them.
    """
    seen = [
        (key, aim)
        for key, aim in sorted(shot.aims.items())
        if (aim.lies != "eyes" or aim.role in others) and (aim.lies != "prop" or aim.prop in shot.props)
    ]
    named = sorted({a.role for _, a in seen if a.role and a.lies == "eyes"})
    said = [(k, a.lies, a.at, a.role or "", a.prop or "") for k, a in seen]
    stands = [(n, o.role.at, o.role.turn, o.eyes, o.lanes.key, o.carried.key) for n in named if (o := others[n])]
    key = content_key(
        "around", eyes, role.at, role.turn, said, stands, shot.camera, tuple(words), profiles, carried.key, props.key
    )

    def make(own: HeadCarried | None, held: HeldProps, *given: Any) -> Around:
        pairs = zip(given[::2], given[1::2], strict=True)
        heads = {n: _eyes_in_shot(others[n], *pair) for n, pair in zip(named, pairs, strict=True)}

        def in_shot(aim: AimEntry) -> Amounts:
            if aim.lies == "eyes":
                return heads[aim.role or ""]
            if aim.lies == "prop":
                return held.props[aim.prop or ""].way.place(np.asarray(aim.at))
            return np.asarray(shot.camera if aim.lies == "camera" else aim.at)

        there = {k: a for k, a in seen if a.lies != "prop" or a.prop in held.props}
        return Around(eyes, {k: _aim(a, in_shot, role, eyes, own) for k, a in there.items()}, tuple(words), profiles)

    inputs = [node for n in named for node in (others[n].lanes, others[n].carried)]
    return Node(key, make, (carried, props, *inputs))


def _eyes_in_shot(other: Other, channels: Channels, carried: HeadCarried | None) -> Amounts:
    """(frames, 3) metres in the shot between another role's eyes, as its clips turn its head and its body carries it."""
    head = head_turns(channels)
    pivot = np.asarray(other.eyes.pivot)
    own = carried.eyes_turned(head) if carried else pivot + rotate(head, other.eyes.middle - pivot)
    return np.asarray(other.role.at) + rotate(about("y", other.role.turn), own)


def _aim(
    aim: AimEntry, in_shot: Callable[[AimEntry], Amounts], role: Role, eyes: Eyes, carried: HeadCarried | None
) -> Aim:
    if aim.lies == "head":
        return Aim(eyes.middle + np.asarray(aim.at), on_head=True)
    there = rotate(about("y", -role.turn), in_shot(aim) - np.asarray(role.at))
    return Aim(carried.seen_at_rest(there) if carried else there)


def words_of_role(found: ShotDocuments, role: str) -> list[Word]:
    """What a role says, in seconds of the shot: the words of its clips' sounds, pass by pass, and of sounds that were let go from it."""
    body = found.shot.body
    out: list[Word] = []
    for entry in body.roles[role].placements.values():
        clip = found.clips.get(entry.clip)
        take = clip.take.body if clip and clip.take else None
        words = found.words.get(take.sources.sound or "") if take else None
        if take is None or words is None or entry.mute or not entry.sound:
            continue
        for start, first, last in entry.placement.passes:
            out += _heard(words.body.spoken, float(start), float(first) - take.sound_offset,
                          float(last) - take.sound_offset, float(entry.placement.speed))  # fmt: skip
    for sound in body.sounds.values():
        words = found.words.get(sound.source)
        if words is not None and sound.role == role and not sound.mute:
            exact = [float(Fraction(v)) for v in (sound.start, sound.first, sound.last, sound.speed)]
            out += _heard(words.body.spoken, *exact)
    return sorted(out, key=lambda w: w.first)


def _heard(words: Sequence[Word], start: float, first: float, last: float, speed: float) -> list[Word]:
    """Words whose middle is heard between two moments of their sound, in seconds of the shot."""
    inside = [w for w in words if first <= (w.first + w.last) / 2 < last]
    return [w.moved(start + (w.first - first) / speed, start + (w.last - first) / speed) for w in inside]
