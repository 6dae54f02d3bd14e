"""Describes a parameter once, for the API, the form in the drawer and the documentation."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any, Literal

from dynaface.core import checks
from dynaface.core.errors import InputError
from dynaface.core.shapes.regions import REGIONS
from dynaface.core.shapes.standard import CHANNELS

TABLES = ("per_region", "per_channel", "looks")
Kind = Literal["number", "choice", "frames", "looks", "profile", "per_region", "per_channel"]
MAX_FRAMES = 2000


@dataclass(frozen=True)
class Parameter:
    """One parameter of a step.

    kind: "number" (float in low..high), "choice" (one of `options`), "frames" (a list of whole frames), "looks" (id -> frame and the
    key of an aim), "profile" (a name of one), "per_region" (region -> number; absent regions are filled in with `default`) or "per_channel" (channel -> number;
    absent channels mean `default`).
    """

    name: str
    label: str
    kind: Kind
    default: Any
    unit: str = ""
    low: float = 0.0
    high: float = 1.0
    step: float = 0.01
    options: Sequence[str] = ()
    help: str = ""

    def checked(self, value: Any) -> Any:
        """The value in its own type; raises InputError with the parameter's name, the value and what is allowed."""
        if self.kind == "choice":
            return checks.one_of(self.name, value, self.options)
        if self.kind == "number":
            return checks.within(self.name, value, self.low, self.high)
        if self.kind == "frames":
            return self._frames(value)
        if self.kind == "profile":
            return self._name(value)
        if not isinstance(value, Mapping):
            raise InputError(f"{self.name} is {value!r:.80}; it must be a table by name")
        if self.kind == "looks":
            return self._looks(value)
        allowed = REGIONS if self.kind == "per_region" else CHANNELS
        for key in value:
            if key not in allowed:
                raise InputError(f"{self.name} names {key!r}, which is no {self.kind.removeprefix('per_')}")
        given = {key: checks.within(f"{self.name}.{key}", v, self.low, self.high) for key, v in value.items()}
        return {**dict.fromkeys(allowed, self.default), **given} if self.kind == "per_region" else given

    def _name(self, value: Any) -> str:
        if not isinstance(value, str) or not 0 < len(value) <= 80:
            raise InputError(f"{self.name} is {value!r:.80}; it must be a name of 1 to 80 letters")
        return value

    def _frames(self, value: Any) -> list[int]:
        if not isinstance(value, Sequence) or isinstance(value, str) or len(value) > MAX_FRAMES:
            raise InputError(f"{self.name} must be a list of at most {MAX_FRAMES} frames")
        for frame in value:
            if not isinstance(frame, int) or isinstance(frame, bool) or not 0 <= frame < 1 << 31:
                raise InputError(f"{self.name} names {frame!r}, which is no frame counted from 0")
        return sorted(set(value))

    def _looks(self, table: Mapping[str, Any]) -> tuple[tuple[int, str], ...]:
        """(frame, aim) in the order of their frames; of several on one frame the last by id counts."""
        if len(table) > MAX_FRAMES:
            raise InputError(f"{self.name} holds {len(table)} looks; at most {MAX_FRAMES}")
        found: dict[int, str] = {}
        for key, row in sorted(table.items()):
            sound = isinstance(row, Sequence) and not isinstance(row, str) and len(row) == 2 and isinstance(row[1], str)
            if not sound:
                raise InputError(f"{self.name}.{key:.40} is {row!r:.80}; it must be a frame and an aim")
            (frame,) = self._frames([row[0]])
            found[frame] = row[1]
        return tuple(sorted(found.items()))

    def describe(self) -> dict[str, Any]:
        """As plain data for a form."""
        return {
            "name": self.name,
            "label": self.label,
            "kind": self.kind,
            "default": self.default,
            "unit": self.unit,
            "low": self.low,
            "high": self.high,
            "step": self.step,
            "options": list(self.options),
            "help": self.help,
        }


def complete(parameters: Sequence[Parameter], given: Mapping[str, Any]) -> dict[str, Any]:
    """All parameters with checked values, defaults where nothing is given; an unknown name is refused."""
    names = [p.name for p in parameters]
    for name in given:
        checks.one_of("parameter", name, names)
    return {p.name: p.checked(given.get(p.name, {} if p.kind in TABLES else p.default)) for p in parameters}
