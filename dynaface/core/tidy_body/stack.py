"""The steps for bodies by name, and a list of them from plain data."""

from collections.abc import Mapping, Sequence
from typing import Any

from dynaface.core.errors import InputError
from dynaface.core.registry import discover
from dynaface.core.tidy_body import steps as _steps
from dynaface.core.tidy_body.step import BodyStep, PlacedBodyStep, placed_body_step

BODY_STEPS: dict[str, BodyStep] = discover(_steps, "STEP")

PLACE = ("step", "on", "groups", "first", "last")


def parse_body_steps(data: Any) -> tuple[PlacedBodyStep, ...]:
    """Steps from plain data, each {"step": NAME, "on"?, "groups"?, "first"?, "last"?, ...parameters}; raises InputError that names the step."""
    if not isinstance(data, Sequence) or isinstance(data, str):
        raise InputError("tidy must be a list of steps")
    return tuple(_parsed(number, given) for number, given in enumerate(data, 1))


def _parsed(number: int, given: Any) -> PlacedBodyStep:
    where = f"body step {number}"
    if not isinstance(given, Mapping) or not isinstance(given.get("step"), str):
        raise InputError('each step must be an object with a "step" name', where=where)
    groups, on = given.get("groups") or (), given.get("on", True)
    if not isinstance(groups, Sequence) or isinstance(groups, str):
        raise InputError(f"groups are {groups!r:.80}; they must be a list of names", where=where)
    if not isinstance(on, bool):
        raise InputError(f"'on' is {on!r:.80}; it must be true or false", where=where)
    parameters = {k: v for k, v in given.items() if k not in PLACE}
    try:
        return placed_body_step(
            BODY_STEPS, given["step"], parameters, on, groups, given.get("first"), given.get("last")
        )
    except InputError as error:
        raise InputError(error.message, where=where, hint=error.hint) from None
