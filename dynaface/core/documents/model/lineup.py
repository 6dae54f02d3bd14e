"""The line-up document: where each recording of a moment begins."""

from fractions import Fraction
from typing import Annotated, ClassVar, Literal, Self

from pydantic import Field, model_validator

from dynaface.core.clock.rates import parse_rate
from dynaface.core.clock.timecode import Timecode, parse_timecode
from dynaface.core.documents.model.record import Body, Identity, Key, Name, Part, Reference, Words
from dynaface.core.documents.model.shot import Seconds

MAX_SOURCES = 300
FARTHEST = 86_400  # seconds from the beginning of a line-up
How = Literal["", "first", "take", "timecode", "notes", "sound", "motion", "curves", "clap", "lips", "hand"]
"""In which way a start was found: "first": the others were compared with it; "take" by what its take says of it, "hand" set by somebody, "" not at all."""
PARTS = {"face": ("curves", "footage", "markers"), "body": ("body",), "sound": ("sound",)}
"""Parts of a take that begin each at a time of its own, and the kinds of sources in them; all kinds of one part share a clock."""


def key_of(take: str, part: str) -> str:
    """The key of a take's part in a line-up."""
    return f"{take} {part}"


class PlainPicture(Part):
    """How well a recording lay against another one about the offset that was found: seconds of the first lag, between lags, and of the offset;
    scores in hundredths.
    """

    first: float = Field(ge=-FARTHEST, le=FARTHEST)
    step: float = Field(gt=0, le=60)
    offset: float = Field(ge=-FARTHEST, le=FARTHEST)
    scores: list[Annotated[int, Field(ge=-100, le=100)]] = Field(min_length=1, max_length=400)


class LineUpEntry(Part):
    """A recording. start: exact seconds after the beginning of the line-up, None where nothing says; drift: parts of a million by which
    its seconds last longer; against: the entry that it was compared with; picture: how it lay against that; group: what moves with it has
    the same, "" for none.
    """

    take: Identity
    part: Literal["face", "body", "sound"]
    start: Seconds | None = None
    how: How = ""
    confidence: float = Field(default=0.0, ge=0, le=1)
    drift: float = Field(default=0.0, ge=-1e5, le=1e5)
    against: Key | None = None
    picture: PlainPicture | None = None
    group: str = Field(default="", max_length=40)

    @property
    def at(self) -> Fraction | None:
        """The start."""
        return None if self.start is None else Fraction(self.start)

    @model_validator(mode="after")
    def _sound(self) -> Self:
        if self.at is not None and abs(self.at) > FARTHEST:
            raise ValueError(f"a recording begins at {float(self.at):g} s; at most {FARTHEST} s from the beginning")
        return self


class LineUpBody(Body):
    """Recordings of a moment by key. rate: of the count; timecode: of the beginning, "" where no recording has one."""

    kind: ClassVar[str] = "lineup"
    fixed: ClassVar[frozenset[str]] = frozenset({"schema"})

    schema_number: Literal[1] = Field(default=1, alias="schema")
    name: Name
    rate: str = Field(max_length=20)
    timecode: Words = ""
    sources: dict[Key, LineUpEntry] = Field(default={}, max_length=MAX_SOURCES)

    @property
    def fps(self) -> Fraction:
        """Frames per second of the count."""
        return parse_rate(self.rate)

    @property
    def begins(self) -> Timecode | None:
        """The count at the beginning, where there is one."""
        return parse_timecode(self.timecode, self.fps) if self.timecode else None

    @model_validator(mode="after")
    def _sound(self) -> Self:
        _ = self.fps, self.begins
        return self

    def references(self) -> tuple[Reference, ...]:
        """The takes."""
        return tuple(Reference(f"sources/{k}/take", "document", "take", e.take) for k, e in self.sources.items())
