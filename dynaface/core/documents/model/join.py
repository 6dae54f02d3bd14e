"""The join document: how the body of a take is put on its character."""

from collections.abc import Mapping
from dataclasses import replace
from functools import cached_property
from typing import Any, ClassVar, Literal, Self

from pydantic import ConfigDict, Field, model_validator

from dynaface.core.documents.model.match import Turn
from dynaface.core.documents.model.record import Body, Identity, Key, Pair, Part, Reference
from dynaface.core.documents.model.take import MAX_DISMISSED, Dismissed
from dynaface.core.documents.model.tidy import MAX_STEPS
from dynaface.core.documents.model.weight import PlainWeight, check_share
from dynaface.core.perform.join_settings import FIELDS, JoinSettings, parse_join


class ContactEntry(Part):
    """A span of a foot or of hands that was set by hand, in seconds of the body take; it stands or touches there, or is free of what was found. over: the span
    that it came from.
    """

    side: Literal["Left", "Right", "LeftHand", "RightHand", "Hands"]
    first: float
    last: float
    stands: bool = True
    over: Pair | None = None


class BodyStepEntry(Part):
    """A step for the body take. rank: steps run in the order of their ranks; groups: of joints, all where there are none; first, last: seconds
    of the body take. Further fields are the step's own parameters.
    """

    model_config = ConfigDict(extra="allow")

    step: str
    on: bool = True
    rank: float = Field(ge=-1e9, le=1e9)
    groups: list[str] = Field(default=[], max_length=40)
    first: float | None = None
    last: float | None = None


def body_steps(steps: Mapping[str, Any]) -> list[dict[str, Any]]:
    """Plain steps by id in their order, without ids and ranks."""
    ordered = sorted(steps.items(), key=lambda item: (item[1]["rank"], item[0]))
    return [{k: v for k, v in step.items() if k != "rank"} for _, step in ordered]


class JoinBody(Body):
    """The fields of `JoinSettings` (core/perform/join.py) for one take."""

    kind: ClassVar[str] = "join"
    fixed: ClassVar[frozenset[str]] = frozenset({"schema", "take"})

    schema_number: Literal[3] = Field(default=3, alias="schema")
    take: Identity
    tidy: dict[Key, BodyStepEntry] = Field(default={}, max_length=MAX_STEPS)
    dismissed: dict[Key, Dismissed] = Field(default={}, max_length=MAX_DISMISSED)
    matches: dict[Key, str] = {}
    turns: dict[Key, Turn] = {}
    calibration: float | None = None
    chains: str = ""
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
    touch: bool = False
    arms: float = 0.0
    legs: float = 0.0
    contacts: dict[Key, ContactEntry] = {}
    floor: float = 0.0
    hands_matches: dict[Key, str] = {}
    hands_turns: dict[Key, Turn] = {}
    hands_nudge: float = 0.0
    hands: str = "both"

    @cached_property
    def settings(self) -> JoinSettings:
        """The settings; raises InputError."""
        given = self.plain()
        given["tidy"] = body_steps(given["tidy"])
        return replace(parse_join({k: given[k] for k in FIELDS}), head_weight=self.head_weight.weight)

    @model_validator(mode="after")
    def _sound(self) -> Self:
        _ = self.settings
        check_share("headWeight", self.head_weight)
        return self

    def references(self) -> tuple[Reference, ...]:
        """The take."""
        return (Reference("take", "document", "take", self.take),)
