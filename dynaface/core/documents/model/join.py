"""The join document: how the body of a take is put on its character."""

from functools import cached_property
from typing import ClassVar, Literal, Self

from pydantic import Field, model_validator

from dynaface.core.documents.model.record import Body, Identity, Key, Reference
from dynaface.core.perform.join import FIELDS, JoinSettings, parse_join


class JoinBody(Body):
    """The fields of `JoinSettings` (core/perform/join.py) for one take."""

    kind: ClassVar[str] = "join"
    fixed: ClassVar[frozenset[str]] = frozenset({"schema", "take"})

    schema_number: Literal[1] = Field(default=1, alias="schema")
    take: Identity
    matches: dict[Key, str] = {}
    nudge: float = 0.0
    head_weight: float = 1.0
    travel: bool = True
    lean: float = 0.0
    feet: bool = False

    @cached_property
    def settings(self) -> JoinSettings:
        """The settings; raises InputError."""
        given = self.plain()
        return parse_join({k: given[k] for k in FIELDS})

    @model_validator(mode="after")
    def _sound(self) -> Self:
        _ = self.settings
        return self

    def references(self) -> tuple[Reference, ...]:
        """The take."""
        return (Reference("take", "document", "take", self.take),)
