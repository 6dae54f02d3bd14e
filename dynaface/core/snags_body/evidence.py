"""What a detector of snags of bodies is given, and what it is."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from functools import cached_property
from typing import Any

import numpy as np

from dynaface.core.body.rotations import Array
from dynaface.core.body.skeleton import Motion, Skeleton
from dynaface.core.contact.feet import Foot, feet_of, has_feet
from dynaface.core.contact.find_feet import FootContacts
from dynaface.core.perform.join_settings import JoinSettings
from dynaface.core.snags.snag import Detector, Snag
from dynaface.core.tidy_body.groups import groups_of


@dataclass(frozen=True)
class Shown:
    """What the join makes of the character, at the take's frames. turns: (frames, joints, 4) world turns from rest; local: (frames, joints, 4),
    root: (frames, 3) of root_joint, "" where nothing travels; chain: joints that turn the head; shifts: joint -> (frames, 3) metres by which
    the cast slides it.
    """

    skeleton: Skeleton
    turns: Array
    local: Array
    root: Array
    root_joint: str
    chain: tuple[int, ...]
    shifts: Mapping[str, Array] = field(default_factory=dict)


@dataclass(frozen=True)
class BodyEvidence:
    """body: the body take as it is tidied; begins: second of it at which the take begins; rate, frames: of the take; contacts: of its feet,
    in its own frames; settings: of the join; shown: None without a character; lips: (frames,) 0..1 how sure the face take's are, None where
    it does not say.
    """

    body: Motion
    begins: float
    rate: float
    frames: int
    contacts: Sequence[FootContacts]
    settings: JoinSettings
    shown: Shown | None = None
    lips: Array | None = None

    @cached_property
    def groups(self) -> tuple[str, ...]:
        """The group of each joint."""
        return groups_of(self.body.skeleton)

    @cached_property
    def posed(self) -> tuple[Array, Array]:
        """World rotations (frames, joints, 4) and places (frames, joints, 3) of the body take."""
        return self.body.skeleton.pose(self.body.local, self.body.root)

    @cached_property
    def feet(self) -> tuple[Foot, ...]:
        """Its feet, none where it has no two legs."""
        return feet_of(self.body.skeleton) if has_feet(self.body.skeleton) else ()

    @cached_property
    def places(self) -> tuple[tuple[Foot, Array, Array], ...]:
        """Each foot with its heel and toe joint (frames, 3) as the body moves."""
        return tuple((foot, *foot.places(*self.posed)) for foot in self.feet)

    def within(self, seconds: float) -> int:
        """Seconds in frames of the body take, at least one."""
        return max(1, round(seconds * float(self.body.rate)))

    def second(self, of_body: int) -> float:
        """The second of a frame of the body take."""
        return of_body / float(self.body.rate)

    def frame(self, of_body: int) -> float:
        """The frame of the take, maybe outside of it, at a frame of the body take."""
        return (self.second(of_body) - self.begins) * self.rate

    def snag(self, kind: str, group: str, joints: Sequence[int], first: int, last: int, severity: float, measured: float,
             limit: float, unit: str, words: str, mends: Sequence[Mapping[str, Any]] = ()) -> list[Snag]:  # fmt: skip
        """A snag between two frames of the body take, none where that is outside of the take."""
        start, end = self.frame(first), self.frame(last)
        if end < 0 or start > self.frames - 1:
            return []
        low, high = max(0, int(np.floor(start + 1e-6))), min(self.frames - 1, int(np.ceil(end - 1e-6)))
        names = tuple(self.body.skeleton.names[j] for j in joints)
        return [Snag(kind, group, names, low, max(low, high), severity, measured, limit, unit, words, tuple(mends))]

    def step(self, name: str, groups: Sequence[str], first: int, last: int, beside: float, **parameters: Any) -> dict[str, Any]:  # fmt: skip
        """A step as a mend, on groups from a frame of the body take to another, and `beside` seconds around."""
        return {"step": name, "groups": list(groups), **parameters, "first": round(max(self.second(first) - beside, 0), 4),
                "last": round(self.second(last) + beside, 4)}  # fmt: skip


def setting(field: str, value: Any) -> dict[str, Any]:
    """A setting of the join as a mend."""
    return {"put": field, "value": value}


BodyDetector = Detector[BodyEvidence]
