"""The document of a tidy stack that is kept by name."""

from typing import ClassVar, Literal

from pydantic import Field

from dynaface.core.documents.model.record import Body, Name
from dynaface.core.documents.model.tidy import Tidy


class StackBody(Body):
    """A tidy stack under a name."""

    kind: ClassVar[str] = "stack"

    schema_number: Literal[2] = Field(default=2, alias="schema")
    name: Name
    tidy: Tidy
