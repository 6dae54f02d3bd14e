"""What is asked for of everything that is handed over, whatever the file."""

from collections.abc import Mapping
from dataclasses import dataclass, fields
from typing import Any, Literal

from dynaface.core import checks
from dynaface.core.clock.rates import parse_rate
from dynaface.core.errors import InputError

MOST_HANDLES, MOST_FRAMES = 1000, 1 << 31
WIDEST = 0.1  # tolerance


@dataclass(frozen=True)
class HandoverOptions:
    """rate: frames per second, "" as it is; first, last: frames of what is handed over, counted from 0 at its own rate, None from its beginning
    and to its end; handles: further frames before and after that; head: with head motion, or neck and head at rest; travel: with
    the way of the body, or on the spot; prefix: of the names of joints and targets, added or taken off; tolerance: by how much a file
    that can leave keys out may differ, 0 for a key on every frame; rest: a frame of the rest pose comes first; neutral: a frame with
    the face at rest comes last.
    """

    rate: str = ""
    first: int | None = None
    last: int | None = None
    handles: int = 0
    head: bool = True
    travel: bool = True
    prefix: str = ""
    prefixing: Literal["add", "take off"] = "add"
    tolerance: float = 0.0
    rest: bool = False
    neutral: bool = False

    def named(self, name: str) -> str:
        """What a joint or target is called in a file."""
        return f"{self.prefix}{name}" if self.prefixing == "add" else name.removeprefix(self.prefix)


def parse_options(data: Mapping[str, Any]) -> HandoverOptions:
    """Options from plain data; raises InputError."""
    for key in data:
        checks.one_of("handover option", key, [f.name for f in fields(HandoverOptions)])
    for key in ("head", "travel", "rest", "neutral"):
        if key in data and not isinstance(data[key], bool):
            raise InputError(f"{key} is {data[key]!r:.80}; it must be true or false")
    for key in ("rate", "prefix"):
        if key in data and (not isinstance(data[key], str) or len(data[key]) > 40):
            raise InputError(f"{key} is {data[key]!r:.80}; it must be a text of at most 40 letters")
    for key, most in (("first", MOST_FRAMES), ("last", MOST_FRAMES), ("handles", MOST_HANDLES)):
        value = data.get(key)
        if value is None and key != "handles":
            continue
        if key in data and (not isinstance(value, int) or isinstance(value, bool) or not 0 <= value <= most):
            raise InputError(f"{key} is {value!r:.80}; it must be a whole number of frames in 0..{most}")
    options = HandoverOptions(**data)
    checks.one_of("prefixing", options.prefixing, ("add", "take off"))
    checks.within("tolerance", options.tolerance, 0, WIDEST)
    if options.rate:
        parse_rate(options.rate)
    if options.first is not None and options.last is not None and options.last < options.first:
        raise InputError(f"the range goes from frame {options.first} to {options.last}", hint="The last frame comes after the first")  # fmt: skip
    return options
