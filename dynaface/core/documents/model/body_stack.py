"""The document of steps for bodies that are kept by name."""

from typing import Annotated, ClassVar, Literal, Self

from pydantic import Field, model_validator

from dynaface.core.documents.model.join import BodyStepEntry, body_steps
from dynaface.core.documents.model.record import Body, Key, Name
from dynaface.core.documents.model.tidy import MAX_STEPS
from dynaface.core.tidy_body.stack import parse_body_steps


class BodyStackBody(Body):
    """Steps for the body of any take, under a name; none of them is bound to a stretch of one."""

    kind: ClassVar[str] = "bodystack"

    schema_number: Literal[1] = Field(default=1, alias="schema")
    name: Name
    tidy: Annotated[dict[Key, BodyStepEntry], Field(min_length=1, max_length=MAX_STEPS)]

    @model_validator(mode="after")
    def _sound(self) -> Self:
        parse_body_steps(body_steps({key: step.plain() for key, step in self.tidy.items()}))
        return self
