"""Numbers among the arguments of a message."""

from typing import Any

from dynaface.core.plain import is_number

MOST = 1e9  # of a value
MOST_COUNT = 1e15  # of a number or a clock, which may count from 1970


def number_of(argument: Any, most: float = MOST) -> float | None:
    """A number that can be worked with; NaN says that a value is not known and is left out."""
    if isinstance(argument, bool):
        return float(argument)
    return float(argument) if is_number(argument) and abs(argument) < most else None
