"""The join document: how the body of a take is put on its character."""

from dataclasses import replace
from functools import cached_property
from typing import ClassVar, Literal, Self

from pydantic import Field, model_validator

from dynaface.core.documents.model.match import Turn
from dynaface.core.documents.model.record import Body, Identity, Key, Pair, Part, Reference
from dynaface.core.documents.model.weight import PlainWeight, check_share
from dynaface.core.perform.join_settings import FIELDS, JoinSettings, parse_join


class ContactEntry(Part):
    """A span of a foot that was set by hand, in seconds of the body take; it stands there, or is free of what was found. over: the span
    that it came from.
    """

    side: Literal["Left", "Right"]
    first: float
    last: float
    stands: bool = True
    over: Pair | None = None


class JoinBody(Body):
    """The fields of `JoinSettings` (core/perform/join.py) for one take."""

    kind: ClassVar[str] = "join"
    fixed: ClassVar[frozenset[str]] = frozenset({"schema", "take"})

    schema_number: Literal[3] = Field(default=3, alias="schema")
    take: Identity
    matches: dict[Key, str] = {}
    turns: dict[Key, Turn] = {}
    calibration: float | None = None
    nudge: float = 0.0
    head_weight: PlainWeight = PlainWeight()
    look: str = "head"
    head_from: str = ""
    spread: str = "even"
    head_shares: dict[Key, float] = {}
    filmed: str = "chest"
    travel: str = "scaled"
    start: bool = False
    lean: float = 0.0
    feet: bool = False
    arms: float = 0.0
    legs: float = 0.0
    contacts: dict[Key, ContactEntry] = {}
    floor: float = 0.0
    hands_matches: dict[Key, str] = {}
    hands_nudge: float = 0.0
    hands: str = "both"

    @cached_property
    def settings(self) -> JoinSettings:
        """The settings; raises InputError."""
        given = self.plain()
        return replace(parse_join({k: given[k] for k in FIELDS}), head_weight=self.head_weight.weight)

    @model_validator(mode="after")
    def _sound(self) -> Self:
        _ = self.settings
        check_share("headWeight", self.head_weight)
        return self

    def references(self) -> tuple[Reference, ...]:
        """The take."""
        return (Reference("take", "document", "take", self.take),)
