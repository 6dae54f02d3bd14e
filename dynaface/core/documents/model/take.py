"""The take document: slate, sources, tidy stack, and what was set by hand."""

from functools import cached_property
from typing import Annotated, ClassVar, Literal, Self

from pydantic import Field, model_validator

from dynaface.core.cast.sheet import MAX_OFF
from dynaface.core.curves.held import Held
from dynaface.core.documents.model.record import (
    Body,
    Frame,
    Identity,
    Key,
    Name,
    Notes,
    Pair,
    Part,
    Reference,
    Words,
    parse,
)
from dynaface.core.documents.model.tidy import Tidy, fresh_tidy
from dynaface.core.dots.hand import MAX_CORRECTIONS, Correction, parse_correction
from dynaface.core.solve.tacks import MAX_TACKS, Tack, parse_tack
from dynaface.core.tidy.hand import parse_hand
from dynaface.core.track.clip_span import ClipSpan

MAX_DISMISSED = 2000
KeyKind = Literal["smooth", "flat", "linear", "stepped", "free"]
PlainKey = Annotated[tuple[float, float, float, float, KeyKind], Field(strict=False)]
"""frame, value, slope before, slope after, kind."""
WeightedKey = Annotated[tuple[float, float, float, float, KeyKind, float, float], Field(strict=False)]
"""The same with the weight of the tangent before and after."""


class Sources(Part):
    """Ids of the take's sources, by kind."""

    curves: Identity | None = None
    sound: Identity | None = None
    body: Identity | None = None
    footage: Identity | None = None
    markers: Identity | None = None
    hands: Identity | None = None

    @property
    def held(self) -> dict[str, str]:
        """kind -> id of those that there are."""
        return {k: v for k, v in self if v is not None}


class HandEntry(Part):
    """What was done by hand on one channel: its keys by id. mode: the channel is what its keys say, or they are added."""

    mode: Literal["keys", "offset"]
    keys: dict[Key, PlainKey | WeightedKey]


class WeightTack(Part):
    """A shape's weight set at a frame, fading over `span` frames each way."""

    frame: Frame
    span: Frame
    shape: str
    value: float


class PlaceTack(Part):
    """A landmark's place in pixels set at a frame, fading over `span` frames each way."""

    frame: Frame
    span: Frame
    point: Frame
    x: float
    y: float


class DotPut(Part):
    """A dot of a layout is at a place of the picture."""

    kind: Literal["put"]
    layout: str
    dot: str
    frame: Frame
    at: Pair


class DotGiven(Part):
    """A stretch of a dot's track belongs to another dot."""

    kind: Literal["give"]
    layout: str
    dot: str
    first: Frame
    last: Frame
    to: str


class DotDropped(Part):
    """A stretch of a dot's track is none."""

    kind: Literal["drop"]
    layout: str
    dot: str
    first: Frame
    last: Frame


class DotSplit(Part):
    """A dot's track breaks before a frame."""

    kind: Literal["split"]
    layout: str
    dot: str
    frame: Frame


PlainTack = WeightTack | PlaceTack
PlainCorrection = Annotated[DotPut | DotGiven | DotDropped | DotSplit, Field(discriminator="kind")]


class SpanOfClip(Part):
    """The in and out of the take's clip, with handles."""

    first: Frame
    last: Frame
    handles: Frame = 0


class Dismissed(Part):
    """A snag that somebody looked at and let be."""

    reason: str = Field(max_length=200)
    kind: str = Field(default="", max_length=80)
    first: Frame = 0
    last: Frame = 0


class TakeBody(Body):
    """One recorded performance. noted_start, noted_rate: the count at its first frame and the rate of it as a notes sheet says, "" where
    none does; sound_offset: seconds by which the sound is moved later; let_go: contacts of this take, by
    their keys ("lips 120"), that are not held on the character; clip_span: what of its footage is solved, None for all of it.
    """

    kind: ClassVar[str] = "take"

    schema_number: Literal[3] = Field(default=3, alias="schema")
    slate: Name
    performer: Words
    notes: Notes = ""
    circled: bool = False
    noted_start: str = Field(default="", max_length=20)
    noted_rate: str = Field(default="", max_length=20)
    sources: Sources
    sound_offset: float = Field(default=0.0, ge=-60, le=60)
    tidy: Tidy
    character: Identity | None = None
    tacks: dict[Key, PlainTack] = Field(default={}, max_length=MAX_TACKS)
    hand: dict[Key, HandEntry] = {}
    dots: dict[Key, PlainCorrection] = Field(default={}, max_length=MAX_CORRECTIONS)
    dismissed: dict[Key, Dismissed] = Field(default={}, max_length=MAX_DISMISSED)
    let_go: dict[Key, bool] = Field(default={}, max_length=MAX_OFF)
    clip_span: SpanOfClip | None = None

    @cached_property
    def by_hand(self) -> dict[str, Held]:
        """channel -> what was done by hand on it; raises InputError."""
        return parse_hand({channel: {"mode": e.mode, "keys": e.keys} for channel, e in self.hand.items()})

    @cached_property
    def tacked(self) -> tuple[Tack, ...]:
        """What was set by hand for solves."""
        return tuple(parse_tack(p.plain()) for p in self.tacks.values())

    @cached_property
    def corrections(self) -> dict[str, Correction]:
        """Corrections of dots by name."""
        return {name: parse_correction(c.plain()) for name, c in self.dots.items()}

    @cached_property
    def solved_span(self) -> ClipSpan | None:
        """The part of its clip that is solved; raises InputError."""
        given = self.clip_span
        return ClipSpan(given.first, given.last, given.handles) if given else None

    @model_validator(mode="after")
    def _sound(self) -> Self:
        _ = self.by_hand, self.tacked, self.corrections, self.solved_span
        return self

    def references(self) -> tuple[Reference, ...]:
        """Its sources and the character that was chosen for it."""
        held = [Reference(f"sources/{kind}", "source", kind, i) for kind, i in self.sources.held.items()]
        return (*held, *([Reference("character", "document", "character", self.character)] if self.character else []))


def new_take(slate: str, performer: str, sources: Sources | None = None) -> TakeBody:
    """A take with the steps that every take begins with; raises InputError."""
    given = {"slate": slate, "performer": performer, "sources": (sources or Sources()).plain()}
    return parse(TakeBody, {**given, "tidy": fresh_tidy().plain()})
