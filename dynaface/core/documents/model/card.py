"""The performer card document: what is known of a performer on a day."""

from functools import cached_property
from typing import ClassVar, Literal, Self

from pydantic import Field, model_validator

from dynaface.core import checks
from dynaface.core.documents.model.drives import Drives, plain_drives
from dynaface.core.documents.model.record import (
    Body,
    Frame,
    Frames,
    Identity,
    Key,
    Marked,
    Name,
    Notes,
    Part,
    Reference,
    Words,
)
from dynaface.core.markers.drive import Drive
from dynaface.core.shapes.standard import SHAPES
from dynaface.core.solve.drive_by_landmarks import parse_place_drives


class TakenAgain(Part):
    """An expression sample that was taken from another take."""

    take: Identity
    frame: Frame


class CardBody(Body):
    """footage: the range of motion; source: what was measured; off: shapes that are not solved; drives: channels that
    are driven by the distance of two places of the face.
    """

    kind: ClassVar[str] = "card"

    schema_number: Literal[2] = Field(default=2, alias="schema")
    name: Name
    performer: Words
    day: str = Field(default="", max_length=20)
    footage: Identity | None = None
    neutral: Frames | None = None
    samples: dict[Key, Frame] = {}
    again: dict[Key, TakenAgain] = {}
    source: Identity | None = None
    notes: Notes = ""
    off: Marked = {}
    drives: Drives = {}

    @property
    def left_out(self) -> tuple[str, ...]:
        """Shapes that are not solved."""
        return tuple(shape for shape, off in self.off.items() if off)

    @cached_property
    def driven(self) -> dict[str, Drive]:
        """channel -> drive; raises InputError."""
        return parse_place_drives(plain_drives(self.drives))

    @model_validator(mode="after")
    def _sound(self) -> Self:
        _ = self.driven
        for shape in self.off:
            checks.one_of("shape", shape, SHAPES)
        return self

    def references(self) -> tuple[Reference, ...]:
        """Its footage, what was measured, and the takes that samples were taken from again."""
        held = (("footage", "footage", self.footage), ("source", "card", self.source))
        again = (Reference(f"again/{s}/take", "document", "take", a.take) for s, a in self.again.items())
        return (*(Reference(path, "source", kind, i) for path, kind, i in held if i), *again)
