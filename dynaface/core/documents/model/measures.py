"""The measures of a performer, kept for all their takes."""

from typing import Annotated, ClassVar, Literal, Self

from pydantic import Field, model_validator

from dynaface.core.documents.model.record import Body, Words
from dynaface.core.errors import InputError
from dynaface.core.measures.measures import LIMITS, Measures

Length = Annotated[float | None, Field(default=None)]


class MeasuresBody(Body):
    """Metres, as in `Measures`; a production has one of these for each performer that was measured."""

    kind: ClassVar[str] = "measures"
    fixed: ClassVar[frozenset[str]] = frozenset({"schema", "performer"})

    schema_number: Literal[1] = Field(default=1, alias="schema")
    performer: Words
    height: Length
    span: Length
    hips: Length
    foot: Length

    @property
    def measures(self) -> Measures:
        """The measures."""
        return Measures(self.height, self.span, self.hips, self.foot)

    @model_validator(mode="after")
    def _sound(self) -> Self:
        for name, (low, high) in LIMITS.items():
            value = getattr(self, name)
            if value is not None and not low <= value <= high:
                raise InputError(f"{name} is {value:g} m; a person has {low:g} to {high:g}", where=name)
        if self.height is not None and self.hips is not None and self.hips >= self.height:
            raise InputError(f"the hips are {self.hips:g} m high in a body of {self.height:g} m", where="hips")
        return self
