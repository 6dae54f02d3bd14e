"""The tidy stack as documents hold it: steps by id, each with its rank; the order is that of the ranks."""

from collections.abc import Mapping, Sequence
from functools import cached_property
from typing import Any, Self

from pydantic import ConfigDict, Field, model_validator

from dynaface.core.documents.model.record import Key, Part
from dynaface.core.errors import InputError
from dynaface.core.tidy.stack import STEPS, Placed, placed

MAX_STEPS = 120


class StepEntry(Part):
    """A step in a stack. rank: steps run in the order of their ranks. Further fields are the step's own parameters and
    `places`, `ramp`, `mix`, which say where it acts.
    """

    model_config = ConfigDict(extra="allow")

    step: str
    on: bool = True
    rank: float = Field(ge=-1e9, le=1e9)

    @property
    def given(self) -> dict[str, Any]:
        """Parameters and places as they were given."""
        return dict(self.model_extra or {})


class Tidy(Part):
    """A tidy stack; "even out time" is its first step and there once only."""

    steps: dict[Key, StepEntry] = Field(max_length=MAX_STEPS)

    @property
    def order(self) -> tuple[str, ...]:
        """Ids of the steps, first to last; ids decide between equal ranks."""
        return tuple(sorted(self.steps, key=lambda k: (self.steps[k].rank, k)))

    @cached_property
    def stack(self) -> tuple[Placed, ...]:
        """The steps with complete checked parameters; raises InputError."""
        out = []
        for number, key in enumerate(self.order, 1):
            entry = self.steps[key]
            out.append(placed(entry.step, entry.given, entry.on, f"step {number}, {entry.step}"))
        return tuple(out)

    @model_validator(mode="after")
    def _sound(self) -> Self:
        first = STEPS["even out time"].label
        if not self.stack or self.stack[0].step.kind != "retiming":
            raise InputError(f"{first} must stay the first step", where="tidy")
        if sum(p.step.kind == "retiming" for p in self.stack) > 1:
            raise InputError(f"{first} can be there once only", where="tidy")
        return self


def tidy_of(steps: Sequence[Mapping[str, Any]], keys: Sequence[str] | None = None) -> Tidy:
    """A stack of plain steps in their order, each {"step", "on", ...}, under the keys given or s1, s2, ..."""
    names = keys or [f"s{n}" for n in range(1, len(steps) + 1)]
    entries = {
        k: StepEntry.model_validate({**s, "rank": float(n)})
        for n, (k, s) in enumerate(zip(names, steps, strict=True), 1)
    }
    return Tidy(steps=entries)


def fresh_tidy() -> Tidy:
    """The steps that every take begins with. Smoothing waits for the animator: it smears what should be mended first."""
    steps = ({"step": "even out time", "on": True}, {"step": "smooth", "on": False}, {"step": "strength", "on": True})
    return tidy_of(steps, ("even", "smooth", "strength"))
