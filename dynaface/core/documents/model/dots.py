"""The document of a layout of colour dots, once for a performer and day."""

from functools import cached_property
from typing import Annotated, Any, ClassVar, Literal, Self

from pydantic import Field, model_validator

from dynaface.core.documents.model.drives import Drives, plain_drives
from dynaface.core.documents.model.record import Body, Frame, Frames, Identity, Key, Name, Pair, Part, Reference, Words
from dynaface.core.dots.dot import DotLayout, parse_dots


class PlainDot(Part):
    """A dot: place of the face chart ("" for none yet), centre in pixels, colour 0..255, radius in pixels."""

    place: str = ""
    at: Pair
    colour: Annotated[tuple[float, float, float], Field(strict=False)]
    radius: float = 4.0


class DotsBody(Body):
    """The fields of `DotLayout` (core/dots/dot.py). footage: the clip in which the dots were picked."""

    kind: ClassVar[str] = "dots"
    fixed: ClassVar[frozenset[str]] = frozenset({"schema", "footage", "size"})

    schema_number: Literal[1] = Field(default=1, alias="schema")
    name: Name
    performer: Words
    day: str = Field(default="", max_length=20)
    footage: Identity
    size: Pair
    fov: float = 60.0
    tolerance: float = 0.09
    dots: dict[Key, PlainDot] = {}
    neutral: Frames = (0, 0)
    samples: dict[Key, Frame] = {}
    drives: Drives = {}
    moves: Literal["neither", "head"] = "neither"

    @cached_property
    def layout(self) -> DotLayout:
        """The dots; raises InputError."""
        given = self.plain()
        fields = ("size", "fov", "tolerance", "dots", "neutral", "samples", "moves")
        return parse_dots({"dynafaceDots": 1, **{k: given[k] for k in fields}, "drives": plain_drives(self.drives)})

    @model_validator(mode="after")
    def _sound(self) -> Self:
        _ = self.layout
        return self

    def references(self) -> tuple[Reference, ...]:
        """The clip."""
        return (Reference("footage", "source", "footage", self.footage),)


def dots_fields(layout: DotLayout) -> dict[str, Any]:
    """A layout of dots as the fields of its document."""
    return {k: v for k, v in layout.describe().items() if k != "dynafaceDots"}
