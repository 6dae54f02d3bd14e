"""What a performer's live values become: kept for each performer who was captured live."""

from typing import Annotated, ClassVar, Literal, Self

from pydantic import Field, model_validator

from dynaface.core import checks
from dynaface.core.documents.model.record import Body, Identity, Key, Reference, Words
from dynaface.core.feed.profile import FeedProfile
from dynaface.core.shapes.regions import REGIONS
from dynaface.core.shapes.standard import CHANNELS, SHAPES

Weights = dict[Key, Annotated[float, Field(ge=-1000, le=1000)]]
Strengths = dict[Key, Annotated[float, Field(ge=0, le=4)]]
Amounts = dict[Key, Annotated[float, Field(ge=0, le=1)]]
Angle = Annotated[float, Field(ge=-180, le=180)]


class FeedProfileBody(Body):
    """The fields of `FeedProfile` (core/feed/profile.py), and the character that the performer moves while live; None for the first."""

    kind: ClassVar[str] = "feedprofile"
    fixed: ClassVar[frozenset[str]] = frozenset({"schema", "performer"})

    schema_number: Literal[1] = Field(default=1, alias="schema")
    performer: Words
    character: Identity | None = None
    neutral: Weights = {}
    extremes: Weights = {}
    zero: Annotated[tuple[Angle, Angle, Angle], Field(strict=False)] = (0.0, 0.0, 0.0)
    strength: Strengths = {}
    smoothing: Amounts = {}
    mirror: bool = False

    @property
    def profile(self) -> FeedProfile:
        """The profile."""
        return FeedProfile(self.neutral, self.extremes, self.zero, self.strength, self.smoothing, self.mirror)

    def references(self) -> tuple[Reference, ...]:
        """The character."""
        return (Reference("character", "document", "character", self.character),) if self.character else ()

    @model_validator(mode="after")
    def _sound(self) -> Self:
        for channel in self.neutral:
            checks.one_of("neutral", channel, CHANNELS)
        for shape in self.extremes:
            checks.one_of("extremes", shape, SHAPES)
        for region in (*self.strength, *self.smoothing):
            checks.one_of("region", region, REGIONS)
        return self
