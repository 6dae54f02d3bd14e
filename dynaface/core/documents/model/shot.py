"""The documents of a shot: the shot with its roles, clips of the reel, and layers."""

from collections.abc import Iterable, Mapping
from fractions import Fraction
from functools import cached_property
from typing import Annotated, Any, ClassVar, Literal, Self, TypeVar

from pydantic import ConfigDict, Field, model_validator

from dynaface.core import checks
from dynaface.core.clock.rates import parse_rate
from dynaface.core.clock.timecode import Timecode, parse_timecode
from dynaface.core.curves.keys import keys_of_table
from dynaface.core.documents.model.record import Body, Identity, Key, Marked, Name, Notes, Part, Reference, Words
from dynaface.core.documents.model.take import MAX_DISMISSED, Dismissed, PlainKey, WeightedKey
from dynaface.core.errors import InputError
from dynaface.core.layers.gaze import RESERVED
from dynaface.core.layers.layer import Layer
from dynaface.core.layers.maker import PlacedMaker, placed_maker
from dynaface.core.layers.span import Span
from dynaface.core.layers.weight import Weight
from dynaface.core.shapes.regions import FACE
from dynaface.core.shapes.standard import CHANNELS
from dynaface.core.shot.placement import Placement

MAX_SECONDS = 3600
MAX_ROLES, MAX_PLACEMENTS, MAX_SPANS, MAX_MAKERS, MAX_AIMS, MAX_KEPT = 40, 2000, 2000, 40, 200, 12
FARTHEST = 1e4  # metres
Seconds = Annotated[str, Field(pattern=r"^-?\d{1,10}(/[1-9]\d{0,8})?$")]
"""Exact seconds as a fraction: "12" or "1001/24000"."""


def check_regions(named: Iterable[str]) -> None:
    """Raises InputError for a name that is no region of the face."""
    for region in named:
        if region not in FACE:
            raise InputError(f"there is no region {region!r:.80}", hint=f"Regions are {', '.join(FACE)}")


def frames_in(length: str, fps: Fraction) -> int:
    """Frames of a shot of exact seconds, a part of one counted as a frame; raises InputError for a length that none can have."""
    seconds = Fraction(length)
    if not 0 < seconds <= MAX_SECONDS:
        raise InputError(f"a shot lasts {float(seconds):g} s; at most {MAX_SECONDS}", where="length")
    return max(-int(-seconds * fps // 1), 1)


class PlainWeight(Part):
    """A weight over time: its keys by id, or one value where there are none."""

    value: float = Field(default=1.0, ge=0, le=1.5)
    keys: dict[Key, PlainKey | WeightedKey] = {}

    @cached_property
    def weight(self) -> Weight:
        """The weight; raises InputError."""
        return Weight(self.value, keys_of_table(self.keys, "weight"))

    @model_validator(mode="after")
    def _sound(self) -> Self:
        _ = self.weight
        return self


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
    """A clip of the reel, placed. sound: whether the sound of its take goes along; seen: what its take gave when somebody last looked,
    to tell that it has changed since.
    """

    clip: Identity
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
    capture: region -> how much of the capture counts; dismissed: snags that somebody looked at and let be.
    """

    character: Identity | None = None
    performer: Words
    rank: float = Field(ge=-1e9, le=1e9)
    at: Annotated[tuple[float, float, float], Field(strict=False)] = (0.0, 0.0, 0.0)
    turn: float = Field(default=0.0, ge=-360, le=360)
    placements: dict[Key, PlacementEntry] = Field(default={}, max_length=MAX_PLACEMENTS)
    capture: dict[Key, PlainWeight] = {}
    dismissed: dict[Key, Dismissed] = Field(default={}, max_length=MAX_DISMISSED)

    @model_validator(mode="after")
    def _sound(self) -> Self:
        check_regions(self.capture)
        return self


class AimEntry(Part):
    """Something to look at in a shot. at: metres, in the shot ("point") or from between the eyes of a head at rest ("head"); role: whose
    eyes ("eyes"); the camera is where the shot has it.
    """

    name: Name
    lies: Literal["point", "head", "eyes", "camera"]
    at: Annotated[tuple[float, float, float], Field(strict=False)] = (0.0, 0.0, 0.0)
    role: Key | None = None

    @model_validator(mode="after")
    def _sound(self) -> Self:
        if max(map(abs, self.at)) > FARTHEST:
            raise InputError(f"the aim {self.name} lies at {self.at}; at most {FARTHEST:g} m away")
        if (self.lies == "eyes") != bool(self.role):
            raise InputError(f"the aim {self.name} needs a role if it is somebody's eyes, and only then")
        return self


class ShotBody(Body):
    """A stretch of the story. length: seconds; the rate is chosen once: keys of layers are frames of it; camera: metres, where the
    camera stands that eyes can look at.
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
    camera: Annotated[tuple[float, float, float], Field(strict=False)] = (0.0, 1.5, 2.5)

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
        """Characters, clips and sounds."""
        out = [Reference(f"sounds/{k}/source", "source", "sound", s.source) for k, s in self.sounds.items()]
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


class SpanEntry(Part):
    """The fields of `Span` (core/layers/span.py); frames are those of the shot."""

    first: float = Field(ge=-1e7, le=1e7)
    last: float = Field(ge=-1e7, le=1e7)
    lead_in: float = 6.0
    lead_out: float = 6.0
    offset: dict[Key, float] = {}
    strength: float = 1.0
    ease: str = "smooth"

    def span(self, key: str) -> Span:
        """The span; raises InputError."""
        return Span(self.first, self.last, self.lead_in, self.lead_out, self.offset, self.strength, self.ease, key)


class MakerEntry(Part):
    """A maker in a layer; further fields are its own parameters."""

    model_config = ConfigDict(extra="allow")

    maker: str
    on: bool = True
    rank: float = Field(ge=-1e9, le=1e9)

    @cached_property
    def placed(self) -> PlacedMaker:
        """The maker with all its parameters; raises InputError."""
        return placed_maker(self.maker, dict(self.model_extra or {}))


class LayerFields(Part):
    """What a layer says, wherever it lies. regions: on which it acts, all where none is marked."""

    name: Name
    does: Literal["add", "replace", "scale"] = "add"
    regions: Marked = {}
    weight: PlainWeight = PlainWeight()
    mute: bool = False
    solo: bool = False
    locked: bool = False
    keys: dict[Key, dict[Key, PlainKey | WeightedKey]] = {}
    spans: dict[Key, SpanEntry] = Field(default={}, max_length=MAX_SPANS)
    makers: dict[Key, MakerEntry] = Field(default={}, max_length=MAX_MAKERS)

    @cached_property
    def layer(self) -> Layer:
        """The layer; raises InputError."""
        regions = frozenset(r for r, on in self.regions.items() if on)
        check_regions(regions)
        keys = {c: keys_of_table(_channel(c, table), c) for c, table in self.keys.items() if table}
        spans = tuple(s.span(k) for k, s in sorted(self.spans.items(), key=lambda item: (item[1].first, item[0])))
        made = sorted(self.makers.items(), key=lambda item: (item[1].rank, item[0]))
        return Layer(self.does, regions, self.weight.weight, keys, spans, tuple(m.placed for _, m in made if m.on))

    @model_validator(mode="after")
    def _sound(self) -> Self:
        _ = self.layer, [m.placed for m in self.makers.values()]
        return self


L = TypeVar("L", bound=LayerFields)


class LayerBody(LayerFields, Body):
    """A layer of one role of a shot. rank: order in its role, lower ones first; folder: under which it is listed; kept: earlier versions
    of what it says.
    """

    kind: ClassVar[str] = "layer"
    fixed: ClassVar[frozenset[str]] = frozenset({"schema", "shot"})

    schema_number: Literal[1] = Field(default=1, alias="schema")
    shot: Identity
    role: Key
    rank: float = Field(ge=-1e9, le=1e9)
    folder: Words = ""
    kept: dict[Key, LayerFields] = Field(default={}, max_length=MAX_KEPT)

    def references(self) -> tuple[Reference, ...]:
        """The shot."""
        return (Reference("shot", "document", "shot", self.shot),)


def counting(layers: Iterable[L]) -> list[L]:
    """The layers that count, in their order: those that are solo where any is, without those that are mute."""
    own = list(layers)
    return [n for n in [n for n in own if n.solo] or own if not n.mute]


def _channel(name: str, table: Mapping[str, Any]) -> Mapping[str, Any]:
    """The keys of a channel, if there is one of the name; raises InputError."""
    checks.one_of("channel", name, CHANNELS)
    return table
