"""The reading recipe: how the columns of one device's tables are to be understood."""

from collections.abc import Callable, Mapping
from dataclasses import asdict, dataclass, field, replace
from typing import Any, Literal

from dynaface.core import checks
from dynaface.core.clock.rates import parse_rate
from dynaface.core.errors import InputError
from dynaface.core.shapes.standard import ANGLES, CHANNELS, HEAD_TRAVEL

TimeUnit = Literal["seconds", "milliseconds", "frames", "timecode", "none"]
TIME_UNITS: tuple[str, ...] = ("seconds", "milliseconds", "frames", "timecode", "none")


@dataclass(frozen=True)
class Recipe:
    """time_column: its header or ""; time_unit; timecode_column: header of labels or ""; timecode_rate: text or "".

    rate: the nominal frame rate as text, or "" to take it from the time stamps; percent: values are 0..100;
    radians: angles are in radians; columns: header -> channel, or "" for a column that is not read;
    flipped: angle channels whose sign is turned.
    """

    time_column: str = ""
    time_unit: TimeUnit = "none"
    timecode_column: str = ""
    timecode_rate: str = ""
    rate: str = ""
    percent: bool = False
    radians: bool = False
    columns: Mapping[str, str] = field(default_factory=dict)
    flipped: tuple[str, ...] = ()

    def describe(self) -> dict[str, Any]:
        """As plain data; parse_recipe reads it back."""
        return {**asdict(self), "columns": dict(self.columns), "flipped": list(self.flipped)}


def _is_text(value: Any) -> bool:
    return isinstance(value, str) and len(value) <= 400


_FITS: dict[str, Callable[[Any], bool]] = {
    "time_column": _is_text, "time_unit": _is_text, "timecode_column": _is_text, "timecode_rate": _is_text, "rate": _is_text,
    "percent": lambda v: isinstance(v, bool), "radians": lambda v: isinstance(v, bool),
    "columns": lambda v: isinstance(v, Mapping) and all(map(_is_text, [*v, *v.values()])),
    "flipped": lambda v: isinstance(v, list | tuple) and all(map(_is_text, v)),
}  # fmt: skip


def parse_recipe(data: Any, base: Recipe | None = None) -> Recipe:
    """A recipe from plain data, what is absent taken from `base`; raises InputError."""
    if not isinstance(data, Mapping):
        raise InputError("the reading recipe must be an object")
    recipe = base or Recipe()
    for key in data:
        checks.one_of("recipe field", key, Recipe.__dataclass_fields__.keys())
    for key, value in data.items():
        if not _FITS[key](value):
            raise InputError(f"{key} of the reading recipe is {value!r:.80}", hint="docs/formats.md shows a recipe")
    merged = replace(recipe, **data)
    checks.one_of("time_unit", merged.time_unit, TIME_UNITS)
    for rate in (merged.rate, merged.timecode_rate):
        if rate:
            parse_rate(rate)
    for header, channel in merged.columns.items():
        if channel:
            checks.one_of(f"channel for column {header!r}", channel, CHANNELS)
    for channel in merged.flipped:
        checks.one_of("flipped", channel, ANGLES + HEAD_TRAVEL)
    taken: dict[str, str] = {}
    for header, channel in merged.columns.items():
        if channel and channel in taken:
            raise InputError(f"columns {taken[channel]!r} and {header!r} are both read as {channel}",
                             hint="Leave one of them out")  # fmt: skip
        taken[channel] = header
    return replace(merged, columns=dict(merged.columns), flipped=tuple(merged.flipped))
