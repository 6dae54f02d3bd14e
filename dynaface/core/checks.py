"""Named argument checks. Each message gives the argument, the value and what is allowed."""

from collections.abc import Collection, Mapping
from typing import Any

import numpy as np
from numpy.typing import NDArray

from dynaface.core.errors import InputError


def shaped(name: str, array: NDArray[Any], *sizes: int | None) -> NDArray[Any]:
    """The array, if its shape is `sizes` (None: any size); raises InputError."""
    if array.ndim != len(sizes) or any(s is not None and s != a for s, a in zip(sizes, array.shape, strict=True)):
        wanted = ", ".join("any" if s is None else str(s) for s in sizes)
        raise InputError(f"{name} has shape {array.shape}; it must be ({wanted})")
    return array


def finite(name: str, array: NDArray[Any]) -> NDArray[Any]:
    """The array of any shape, if all its values are finite; raises InputError with the index of the first that is not."""
    if not np.isfinite(array).all():
        at = np.argwhere(~np.isfinite(np.atleast_1d(array)))[0]
        raise InputError(f"{name} has a value that is not finite", where=f"index {tuple(int(i) for i in at)}")
    return array


def within(name: str, value: float, low: float, high: float) -> float:
    """The value as a float, if it is in low..high; raises InputError."""
    try:
        number = float(value)
    except (TypeError, ValueError, OverflowError):
        raise InputError(f"{name} is {value!r:.80}; it must be a number") from None
    if not low <= number <= high:
        raise InputError(f"{name} is {number:g}; it must be in {low:g}..{high:g}")
    return number


def table(name: str, value: Any) -> Mapping[str, Any]:
    """The value, if it is a table by name; raises InputError."""
    if not isinstance(value, Mapping):
        raise InputError(f"{name} is {value!r:.80}; it must be a table", hint="docs/formats.md shows one")
    return value


def one_of(name: str, value: Any, allowed: Collection[Any]) -> Any:
    """The value, if it is among those allowed; raises InputError."""
    try:
        known = value in allowed
    except TypeError:  # no word at all, where words are looked up
        known = False
    if not known:
        raise InputError(f"{name} is {value!r:.80}; it must be one of {', '.join(map(str, allowed))}")
    return value
