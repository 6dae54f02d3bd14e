"""What every document body is: a frozen record with typed fields, read whole or not at all."""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Annotated, Any, ClassVar, TypeVar

from pydantic import BaseModel, BeforeValidator, ConfigDict, Field, ValidationError
from pydantic.alias_generators import to_camel

from dynaface.core.errors import InputError

ID_PATTERN = r"^[0-9a-f]{8}(-[0-9a-f]{4}){3}-[0-9a-f]{12}$"


def _whole(value: Any) -> Any:
    return int(value) if isinstance(value, float) and value.is_integer() else value


Identity = Annotated[str, Field(pattern=ID_PATTERN)]
Name = Annotated[str, Field(max_length=80, pattern=r"\S")]
Words = Annotated[str, Field(max_length=80)]
Notes = Annotated[str, Field(max_length=4000)]
Key = Annotated[str, Field(min_length=1, max_length=120)]
"""The name of an entry in a table, given by whoever makes the entry."""
Frame = Annotated[int, BeforeValidator(_whole), Field(ge=0, le=10_000_000)]
Pair = Annotated[tuple[float, float], Field(strict=False)]
Frames = Annotated[tuple[Frame, Frame], Field(strict=False)]
Marked = dict[str, bool]
"""A set whose members can be added and removed one at a time: each member is a key whose value is true."""


@dataclass(frozen=True)
class Reference:
    """What a body names by id: path of the field, kind ("character", or the kind of a source with `of` "source"), id."""

    path: str
    of: str
    kind: str
    id: str


class Part(BaseModel):
    """A part of a body. Field names are camelCase in plain data; unknown fields, NaN and infinity are refused."""

    model_config = ConfigDict(
        frozen=True, extra="forbid", strict=True, allow_inf_nan=False, alias_generator=to_camel, validate_by_name=True,
        validate_by_alias=True, json_schema_serialization_defaults_required=True,
    )  # fmt: skip

    def plain(self) -> dict[str, Any]:
        """As plain data with every field, so that equal records give equal plain data."""
        return self.model_dump(mode="json", by_alias=True)


class Body(Part):
    """The body of a document. kind: the document's kind; fixed: plain names of fields that no edit may change."""

    kind: ClassVar[str] = ""
    fixed: ClassVar[frozenset[str]] = frozenset({"schema"})

    archived: bool = False

    def references(self) -> tuple[Reference, ...]:
        """Everything that the body names by id."""
        return ()


P = TypeVar("P", bound=Part)


def parse(record: type[P], data: Any, what: str = "") -> P:
    """A record from plain data; raises InputError with the path of the first thing that is wrong."""
    if not isinstance(data, Mapping):
        raise InputError(f"{what or 'this'} is {data!r:.60}; it must be a table of fields")
    try:
        return record.model_validate(dict(data))
    except ValidationError as error:
        first = error.errors(include_url=False)[0]
        path = _path(first["loc"], data)
        raise InputError(_sentence(path, first), where=path) from None


def _path(loc: tuple[int | str, ...], data: Any) -> str:
    """The place in the data; parts of a location that only name a member of a union are left out."""
    out: list[str] = []
    here: Any = data
    for number, part in enumerate(loc):
        if isinstance(here, Mapping):
            inside, below = part in here, here.get(part)
        elif isinstance(here, list | tuple) and isinstance(part, int):
            inside, below = True, here[part] if part < len(here) else None
        else:
            inside, below = False, here
        if inside or number == len(loc) - 1:
            out.append(str(part).replace("~", "~0").replace("/", "~1"))
        if inside:
            here = below
    return "/".join(out)


def _sentence(path: str, found: Mapping[str, Any]) -> str:
    field = path.rsplit("/", 1)[-1] or "this"
    if found["type"] == "missing":
        return f"{field} is missing"
    if found["type"] == "extra_forbidden":
        return f"there is no field {field!r}"
    value = repr(found["input"])
    return (
        f"{field} is {value if len(value) <= 80 else value[:77] + '...'}: {found['msg'][:1].lower()}{found['msg'][1:]}"
    )
