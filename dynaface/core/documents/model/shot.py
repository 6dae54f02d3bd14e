"""The documents of a shot: the shot with its roles, and clips of the reel."""

from fractions import Fraction
from functools import cached_property
from typing import Annotated, ClassVar, Literal, Self

from pydantic import Field, model_validator

from dynaface.core.clock.rates import parse_rate
from dynaface.core.clock.timecode import Timecode, parse_timecode
from dynaface.core.documents.model.prop import FARTHEST, Metres, PropEntry
from dynaface.core.documents.model.record import Body, Identity, Key, Name, Notes, Part, Reference, Words
from dynaface.core.documents.model.take import MAX_DISMISSED, Dismissed
from dynaface.core.documents.model.weight import PlainWeight, check_captured, check_share
from dynaface.core.errors import InputError
from dynaface.core.layers.gaze import RESERVED
from dynaface.core.shot.placement import Placement

MAX_SECONDS = 3600
MAX_ROLES, MAX_PLACEMENTS, MAX_AIMS = 40, 2000, 200
Seconds = Annotated[str, Field(pattern=r"^-?\d{1,10}(/[1-9]\d{0,8})?$")]
"""Exact seconds as a fraction: "12" or "1001/24000"."""


def frames_in(length: str, fps: Fraction) -> int:
    """Frames of a shot of exact seconds, a part of one counted as a frame; raises InputError for a length that none can have."""
    seconds = Fraction(length)
    if not 0 < seconds <= MAX_SECONDS:
        raise InputError(f"a shot lasts {float(seconds):g} s; at most {MAX_SECONDS}", where="length")
    return max(-int(-seconds * fps // 1), 1)


class PlacementFields(Part):
    """The fields of `Placement` (core/shot/placement.py)."""

    start: Seconds
    first: Seconds
    last: Seconds
    speed: Seconds = "1"
    repeats: Seconds = "1"
    seam: Seconds = "0"
    fade_in: Seconds = "0"
    fade_out: Seconds = "0"
    lane: int = Field(default=0, ge=0, le=20)
    mute: bool = False
    weight: PlainWeight = PlainWeight()

    @cached_property
    def placement(self) -> Placement:
        """The placement; raises InputError."""
        exact = {
            name: Fraction(getattr(self, name))
            for name in ("start", "first", "last", "speed", "repeats", "seam", "fade_in", "fade_out")
        }
        return Placement(**exact, lane=self.lane, mute=self.mute, weight=self.weight.weight)

    @model_validator(mode="after")
    def _sound(self) -> Self:
        _ = self.placement
        return self


class PlacementEntry(PlacementFields):
    """A clip of the reel, placed. shows: what of its take; follows: whether its body begins where the one before it on its lane stands;
    sound: whether the sound of its take goes along; seen: what its take gave when somebody last looked, to tell that it has changed since.
    """

    clip: Identity
    shows: Literal["face", "body", "both"] = "face"
    follows: bool = False
    sound: bool = True
    seen: str = Field(default="", max_length=64)


class SoundEntry(Part):
    """A sound of its own in a shot. first, last: the stretch of it that is heard; speed as that of a clip; role: who speaks in it."""

    source: Identity
    name: Words = ""
    start: Seconds
    first: Seconds
    last: Seconds
    speed: Seconds = "1"
    gain: float = Field(default=1.0, ge=0, le=4)
    role: Key | None = None
    fade_in: Seconds = "0"
    fade_out: Seconds = "0"
    mute: bool = False

    @model_validator(mode="after")
    def _sound(self) -> Self:
        if Fraction(self.last) <= Fraction(self.first) or not Fraction(1, 4) <= Fraction(self.speed) <= 4:
            raise InputError(f"a sound goes from {self.first} to {self.last} s at speed {self.speed}")
        return self


class Role(Part):
    """One character in the shot with the performer whose takes move it. at: metres on the ground; turn: degrees to its left;
    capture: part -> how much of the capture counts; head_weight, look, lean: as in `JoinSettings`, over the frames of the shot; dismissed: snags that somebody looked at and let be.
    """

    character: Identity | None = None
    performer: Words
    rank: float = Field(ge=-1e9, le=1e9)
    at: Metres = (0.0, 0.0, 0.0)
    turn: float = Field(default=0.0, ge=-360, le=360)
    placements: dict[Key, PlacementEntry] = Field(default={}, max_length=MAX_PLACEMENTS)
    capture: dict[Key, PlainWeight] = {}
    head_weight: PlainWeight = PlainWeight()
    look: Literal["head", "world"] = "head"
    lean: float = Field(default=0.0, ge=0, le=1)
    dismissed: dict[Key, Dismissed] = Field(default={}, max_length=MAX_DISMISSED)

    @model_validator(mode="after")
    def _sound(self) -> Self:
        check_captured(self.capture)
        check_share("headWeight", self.head_weight)
        return self


class AimEntry(Part):
    """Something to look at in a shot. at: metres, in the shot ("point"), from between the eyes of a head at rest ("head") or of a prop's own
    space ("prop"); role: whose eyes ("eyes"); prop: which one; the camera is where the shot has it.
    """

    name: Name
    lies: Literal["point", "head", "eyes", "camera", "prop"]
    at: Metres = (0.0, 0.0, 0.0)
    role: Key | None = None
    prop: Key | None = None

    @model_validator(mode="after")
    def _sound(self) -> Self:
        if max(map(abs, self.at)) > FARTHEST:
            raise InputError(f"the aim {self.name} lies at {self.at}; at most {FARTHEST:g} m away")
        if (self.lies == "eyes") != bool(self.role):
            raise InputError(f"the aim {self.name} needs a role if it is somebody's eyes, and only then")
        if (self.lies == "prop") != bool(self.prop):
            raise InputError(f"the aim {self.name} needs a prop if it lies on one, and only then")
        return self


class ShotBody(Body):
    """A stretch of the story. length: seconds; the rate is chosen once: keys of layers and holds of props are frames of it; camera: metres,
    where the camera stands that eyes can look at.
    """

    kind: ClassVar[str] = "shot"
    fixed: ClassVar[frozenset[str]] = frozenset({"schema", "rate"})

    schema_number: Literal[1] = Field(default=1, alias="schema")
    name: Name
    notes: Notes = ""
    rate: str = Field(max_length=20)
    timecode: str = Field(default="", max_length=20)
    length: Seconds
    roles: dict[Key, Role] = Field(default={}, max_length=MAX_ROLES)
    sounds: dict[Key, SoundEntry] = Field(default={}, max_length=MAX_ROLES)
    aims: dict[Key, AimEntry] = Field(default={}, max_length=MAX_AIMS)
    camera: Metres = (0.0, 1.5, 2.5)
    props: dict[Key, PropEntry] = Field(default={}, max_length=MAX_ROLES)

    @property
    def fps(self) -> Fraction:
        """Frames per second."""
        return parse_rate(self.rate)

    @property
    def frames(self) -> int:
        """Frames of the shot, a part of one counted as a frame."""
        return frames_in(self.length, self.fps)

    @property
    def begins(self) -> Timecode | None:
        """The timecode of frame 0, where there is one."""
        return parse_timecode(self.timecode, self.fps) if self.timecode else None

    @property
    def holding(self) -> tuple[str, ...]:
        """Keys of the roles whose hands hold a prop."""
        held = {h.role for p in self.props.values() for h in p.holds.values()}
        return tuple(sorted(held & set(self.roles)))

    @property
    def ordered(self) -> tuple[str, ...]:
        """Keys of the roles by rank."""
        return tuple(sorted(self.roles, key=lambda k: (self.roles[k].rank, k)))

    @model_validator(mode="after")
    def _sound(self) -> Self:
        _ = self.begins, self.frames
        for key in set(self.aims) & set(RESERVED):
            raise InputError(f"an aim cannot have the key {key!r}")
        return self

    def references(self) -> tuple[Reference, ...]:
        """Characters, clips, sounds and props."""
        out = [Reference(f"sounds/{k}/source", "source", "sound", s.source) for k, s in self.sounds.items()]
        out += [Reference(f"props/{k}/source", "source", "prop", p.source) for k, p in self.props.items()]
        for key, role in self.roles.items():
            if role.character:
                out.append(Reference(f"roles/{key}/character", "document", "character", role.character))
            out += [
                Reference(f"roles/{key}/placements/{n}/clip", "document", "clip", p.clip)
                for n, p in role.placements.items()
            ]
        return tuple(out)


class ClipBody(Body):
    """A stretch of a take in the reel. frozen: curves to which it is held, whatever becomes of the take."""

    kind: ClassVar[str] = "clip"
    fixed: ClassVar[frozenset[str]] = frozenset({"schema", "take"})

    schema_number: Literal[1] = Field(default=1, alias="schema")
    name: Name
    take: Identity
    first: Seconds
    last: Seconds
    frozen: Identity | None = None

    @model_validator(mode="after")
    def _sound(self) -> Self:
        if not 0 <= Fraction(self.first) < Fraction(self.last):
            raise InputError(f"a clip goes from {self.first} to {self.last} s of its take")
        return self

    def references(self) -> tuple[Reference, ...]:
        """Its take, and the curves that it is held to."""
        held = [Reference("frozen", "source", "curves", self.frozen)] if self.frozen else []
        return (Reference("take", "document", "take", self.take), *held)
