"""The presets of a production's handovers: its own copies of those that come with the product, and further ones."""

from typing import Annotated, Any, ClassVar, Literal, Self

from pydantic import Field, model_validator

from dynaface.core.documents.model.record import Body, Key, Part
from dynaface.core.handover.file_name import PATTERN, parse_pattern
from dynaface.core.handover.options import MOST_HANDLES, WIDEST, parse_options
from dynaface.core.handover.presets import BUILT_IN

MAX_PRESETS = 60
MOST = 1 << 31
PlainSettings = dict[Annotated[str, Field(max_length=40)], Annotated[str, Field(max_length=80)] | float]


class PlainOptions(Part):
    """The fields of `HandoverOptions` (core/handover/options.py)."""

    rate: str = Field(default="", max_length=20)
    first: int | None = Field(default=None, ge=0, lt=MOST)
    last: int | None = Field(default=None, ge=0, lt=MOST)
    handles: int = Field(default=0, ge=0, le=MOST_HANDLES)
    head: bool = True
    travel: bool = True
    prefix: str = Field(default="", max_length=40)
    prefixing: Literal["add", "take off"] = "add"
    tolerance: float = Field(default=0.0, ge=0, le=WIDEST)
    rest: bool = False
    neutral: bool = False

    @model_validator(mode="after")
    def _sound(self) -> Self:
        parse_options(dict(self))
        return self


class PresetEntry(Part):
    """forms: name of a form of handover -> its settings, which are looked at when it is used; pattern: of file names."""

    forms: dict[Annotated[str, Field(max_length=40)], PlainSettings] = Field(min_length=1, max_length=20)
    options: PlainOptions = PlainOptions()
    pattern: str = Field(default=PATTERN, max_length=120)

    @model_validator(mode="after")
    def _sound(self) -> Self:
        parse_pattern(self.pattern)
        return self


class PresetsBody(Body):
    """All presets of a production by name; there is one of these documents in each."""

    kind: ClassVar[str] = "presets"

    schema_number: Literal[1] = Field(default=1, alias="schema")
    presets: dict[Key, PresetEntry] = Field(max_length=MAX_PRESETS)


def fresh_presets() -> dict[str, Any]:
    """Copies of those that come with the product, as plain data."""
    return {name: dict(settings) for name, settings in BUILT_IN.items()}
