"""The ordered stack: parsing, checking, evaluating.

As plain data a stack is {"dynafaceStack": 1, "steps": [{"step": NAME, "on": true, ...parameters, "places": [...],
"ramp": frames, "mix": 0..1}]}; the last three say where the step acts (core/tidy/place.py).
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from typing import Any

from dynaface.core.curves.channels import Channels, Recording
from dynaface.core.errors import InputError
from dynaface.core.parameters import complete
from dynaface.core.registry import discover
from dynaface.core.tidy import steps as _steps
from dynaface.core.tidy.place import KEYS, Coverage, mixed, parse_coverage
from dynaface.core.tidy.step import WHOLE, Source, Step

STEPS: dict[str, Step] = discover(_steps, "STEP")
FIRST = "even out time"


@dataclass(frozen=True)
class Placed:
    """A step in a stack with its complete parameters and where it acts."""

    step: Step
    parameters: Mapping[str, Any]
    on: bool = True
    where: Coverage = field(default_factory=Coverage)


def placed(name: str, given: Mapping[str, Any], on: bool = True, where: str = "") -> Placed:
    """A step by name with checked parameters; raises InputError, which says `where`."""
    if name not in STEPS:
        raise InputError(f"there is no tidy step {name!r}", where=where, hint=f"Steps are: {', '.join(STEPS)}")
    if not isinstance(on, bool):
        raise InputError(f"'on' is {on!r}; it must be true or false", where=where)
    try:
        step = STEPS[name]
        own = {k: v for k, v in given.items() if k not in KEYS}
        coverage = parse_coverage(given)
        if step.kind == "retiming" and not coverage.everywhere:
            raise InputError("this step acts on the whole take: it has no places")
        return Placed(step, complete(step.parameters, own), on, coverage)
    except InputError as error:
        raise InputError(error.message, where=where or name, hint=error.hint) from None


def parse_stack(data: Any) -> tuple[Placed, ...]:
    """A stack from plain data; raises InputError that names the step."""
    if not isinstance(data, Mapping) or data.get("dynafaceStack") != 1:
        raise InputError("this is no tidy stack", hint='It must be an object with "dynafaceStack": 1 and "steps"')
    if not isinstance(data.get("steps"), Sequence) or isinstance(data["steps"], str):
        raise InputError('"steps" must be a list')
    out = []
    for number, item in enumerate(data["steps"], 1):
        if not isinstance(item, Mapping) or not isinstance(item.get("step"), str):
            raise InputError('each step must be an object with a "step" name', where=f"step {number}")
        given = {k: v for k, v in item.items() if k not in ("step", "on")}
        out.append(placed(item["step"], given, item.get("on", True), f"step {number}, {item['step']}"))
    return tuple(out)


def describe_stack(stack: Sequence[Placed]) -> dict[str, Any]:
    """The stack as plain data; parse_stack reads it back."""
    return {"dynafaceStack": 1, "steps": [describe_placed(p) for p in stack]}


def describe_placed(entry: Placed) -> dict[str, Any]:
    """One step of a stack as plain data."""
    return {"step": entry.step.name, "on": entry.on, **entry.parameters, **entry.where.describe()}


def evaluate(source: Source, stack: Sequence[Placed], upto: int | None = None) -> Channels:
    """The source through the stack.

    A Recording goes through a retiming step first (the stack's own, switched on or not, or the default one): from
    there on there is one rate. `upto` stops after that many steps.
    """
    todo = list(stack[:upto])
    if isinstance(source, Recording):
        current = retime(source, next((p for p in stack if p.step.kind == "retiming"), None) or placed(FIRST, {}))
    else:
        current = source
    for entry in todo:
        if entry.on and entry.step.kind != "retiming":
            current = run_step(current, entry)
    return current


def retime(source: Recording, entry: Placed) -> Channels:
    """A recording at one rate, by a retiming step."""
    return entry.step.apply(source, entry.parameters)


def run_step(given: Channels, entry: Placed) -> Channels:
    """One step on channels, where it acts and nowhere else; gaps that it fills there stay filled."""
    step, where = entry.step, entry.where
    if where.mix == 0 or not given.frames or (step.within is not None and not where.places):
        return given
    if where.everywhere and step.within is None:
        return step.apply(given, entry.parameters)
    halo = step.halo(entry.parameters, float(given.rate))
    weights = where.weights(given.names, given.frames)
    out = given.values.copy()
    whole = halo == WHOLE or not where.places
    for first, stop in [(0, given.frames)] if whole else where.windows(given.frames, halo):
        part = replace(given, values=given.values[first:stop])
        here = weights[first:stop]
        if step.within is not None:
            made = step.within(part, entry.parameters, here >= where.mix)
        else:
            made = step.apply(part, entry.parameters)
        out[first:stop] = mixed(part.values, made.values, here)
    return given.with_values(out)
