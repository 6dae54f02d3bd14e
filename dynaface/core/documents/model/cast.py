"""The cast sheet document: how channels drive one character for one performer."""

from functools import cached_property
from typing import Annotated, Any, ClassVar, Literal, Self

from pydantic import Field, model_validator

from dynaface.core.cast.sheet import FIELDS, CastSheet, Contacts, describe_sheet, parse_sheet
from dynaface.core.documents.model.record import Body, Identity, Key, Marked, Pair, Part, Reference, Words

Factors = dict[Key, float]


class PlainCombination(Part):
    """A corrective target driven by several shapes at once."""

    of: list[str]
    by: Literal["product", "least"] = "product"
    gain: float = 1.0


class PlainDrive(Part):
    """How a channel turns (degrees) or shifts (metres) a joint about or along an axis of its own."""

    moves: Literal["turn", "shift"] = "turn"
    axis: Annotated[tuple[float, float, float], Field(strict=False)] = (1.0, 0.0, 0.0)
    most: float | None = None
    bend: float = 0.0

    @property
    def given(self) -> dict[str, Any]:
        """As plain data; without `most` the drive has its usual one."""
        return {k: v for k, v in self.plain().items() if v is not None}


class PlainContacts(Part):
    """Which contacts are kept; off: keys of single spans that are not ("lips 120")."""

    lips: bool = False
    lids: bool = False
    parting: bool = False
    off: Marked = {}


class CastBody(Body):
    """The fields of `CastSheet` (core/cast/sheet.py) as plain data, for one performer and character."""

    kind: ClassVar[str] = "cast"
    fixed: ClassVar[frozenset[str]] = frozenset({"schema", "performer", "character"})

    schema_number: Literal[2] = Field(default=2, alias="schema")
    performer: Words
    character: Identity
    matches: dict[Key, str | Factors] = {}
    combinations: dict[Key, PlainCombination] = {}
    joints: dict[Key, PlainDrive | None] = {}
    region_strength: Factors = {}
    way_strength: Factors = {}
    shape_strength: Factors = {}
    below: Factors = {}
    shape_offset: Factors = {}
    shape_limit: dict[Key, Pair] = {}
    bend: Factors = {}
    directions: Factors = {}
    contacts: PlainContacts = PlainContacts()
    low: float = 0.0
    high: float = 1.0
    eyes: Literal["joints", "shapes"] = "joints"

    @cached_property
    def sheet(self) -> CastSheet:
        """The sheet; raises InputError."""
        data = {k: v for k, v in self.plain().items() if k not in OWN}
        joints = {k: d.given if d else None for k, d in self.joints.items()}
        contacts = {**data["contacts"], "off": sorted(k for k, on in self.contacts.off.items() if on)}
        return parse_sheet({**data, "joints": joints, "contacts": contacts})

    @model_validator(mode="after")
    def _sound(self) -> Self:
        _ = self.sheet
        return self

    def references(self) -> tuple[Reference, ...]:
        """The character."""
        return (Reference("character", "document", "character", self.character),)


OWN = frozenset({"schema", "archived", "performer", "character"})
"""Fields of the document that are not of the sheet."""
FRESH = CastSheet(contacts=Contacts(lips=True, lids=True))
"""What a performer begins with on a new character: lips and lids stay in contact."""


def fields_of(sheet: CastSheet) -> dict[str, Any]:
    """The sheet as the fields of a cast document, all of them."""
    plain = describe_sheet(sheet)
    contacts = dict(plain.pop("contacts", {}))
    off = dict.fromkeys(contacts.pop("off", []), True)
    return {**{f: {} for f in FIELDS}, **plain, "contacts": {**contacts, "off": off}}


def cast_body(performer: str, character: str, sheet: CastSheet = FRESH) -> CastBody:
    """The document of a sheet."""
    return CastBody.model_validate({"performer": performer, "character": character, **fields_of(sheet)})
