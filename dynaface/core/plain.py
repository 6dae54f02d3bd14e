"""Plain data that people bring, as JSON gives it: numbers that all of ours can hold, text without NUL, a bounded depth."""

import sys
from collections.abc import Iterator
from typing import Any

from dynaface.core.errors import InputError

MAX_NUMBER = 1e18  # within what 64 bits hold as a whole number
MAX_DEPTH = 40


def _places(value: Any) -> Iterator[tuple[str, Any, int]]:
    """(JSON pointer, value, depth) of all that is in a value, keys of tables among it."""
    waiting: list[tuple[str, Any, int]] = [("", value, 0)]
    while waiting:
        where, found, depth = waiting.pop()
        yield where, found, depth
        if depth > MAX_DEPTH:
            return
        if isinstance(found, dict):
            for key, inner in found.items():
                yield f"{where}/{key}", key, depth
                waiting.append((f"{where}/{key}", inner, depth + 1))
        elif isinstance(found, list):
            waiting += [(f"{where}/{n}", inner, depth + 1) for n, inner in enumerate(found)]


def is_number(value: Any) -> bool:
    """Whether it is a number that a float can hold; JSON brings whole numbers of any length."""
    return isinstance(value, int | float) and not isinstance(value, bool) and abs(value) <= sys.float_info.max


def bounded(value: Any, what: str) -> Any:
    """The value; raises InputError with the place of what nothing of ours can hold: numbers that are not finite or beyond
    MAX_NUMBER, U+0000, halves of surrogate pairs, a nesting deeper than MAX_DEPTH. what: what is looked at, in words.
    """
    for where, found, depth in _places(value):
        place = where[:200].replace("\x00", "\\0").encode("utf-8", "replace").decode() or what
        if depth > MAX_DEPTH:
            raise InputError(f"{what} is nested more than {MAX_DEPTH} deep", where=place)
        if isinstance(found, str) and ("\x00" in found or not _is_text(found)):
            raise InputError(
                "a text has a sign in it that is none (U+0000, half a pair)", where=place, hint="Take it out"
            )
        if isinstance(found, int | float) and not -MAX_NUMBER < found < MAX_NUMBER:
            raise InputError("a number is not finite or too large", where=place,
                             hint=f"It must be within {MAX_NUMBER:g} either way")  # fmt: skip
    return value


def _is_text(found: str) -> bool:
    return found.isascii() or not any("\ud800" <= c <= "\udfff" for c in found)
