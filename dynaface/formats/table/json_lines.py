"""Tables written as JSON lines, an object a line: their values as the cells of a delimited text with a header."""

import json
from collections.abc import Iterator
from typing import Any

from dynaface.core.errors import InputError, LimitError

DELIMITER = "\t"
DEEPEST = 6  # objects in objects
LONGEST = 1024  # entries of one list
MOST_NAMES = 4096


def is_json_line(line: str) -> bool:
    """Whether a line is an object of its own that holds a number."""
    if not line.lstrip().startswith("{"):
        return False
    found = _values(line)
    return found is not None and any(isinstance(v, int | float) for v in found.values())


def as_delimited(text: str) -> str:
    """A header and a row for each line, in their order; a blank line stays one. A line that is no object becomes a row of one cell, which no
    header fits. Raises InputError where no line has values, LimitError where there are too many names.
    """
    lines = text.split("\n")
    names: dict[str, None] = {}
    for line in lines:
        names.update(dict.fromkeys(_values(line) or ()))
        if len(names) > MOST_NAMES:
            raise LimitError(f"the lines name more than {MOST_NAMES} values", hint="Export the face alone")
    if not names:
        raise InputError("no line of this file is a JSON object with values in it", hint="Export it again")
    rows = [DELIMITER.join(_short(list(names)))]
    for line in lines:
        found = _values(line)
        if found is None:
            rows.append("no JSON object" if line.strip() else "")
        else:
            rows.append(DELIMITER.join(_cell(found.get(name)) for name in names))
    return "\n".join(rows)


def _short(names: list[str]) -> list[str]:
    """Names without the objects that they are in, where they are told apart by that."""
    last = [name.rsplit(".", 1)[-1] for name in names]
    plain = [
        short if last.count(short) == 1 and not short.isdigit() else name
        for name, short in zip(names, last, strict=True)
    ]
    return [name.replace(DELIMITER, " ").replace("\n", " ").replace("\r", " ").strip() for name in plain]


def _cell(value: Any) -> str:
    if value is None:
        return ""
    if isinstance(value, str):
        return " ".join(value.split())
    return repr(float(value)) if isinstance(value, float) else str(int(value))


def _values(line: str) -> dict[str, Any] | None:
    """Name -> number, text or None of a line; None where it is no object."""
    if not line.strip():
        return None
    try:
        found = json.loads(line)
    except (ValueError, RecursionError):
        return None
    return flat_values(found) if isinstance(found, dict) else None


def flat_values(found: dict[str, Any]) -> dict[str, Any]:
    """Name -> number, text or None of all that is in an object."""
    return dict(_flat("", found, 0))


def _flat(path: str, value: Any, deep: int) -> Iterator[tuple[str, Any]]:
    """Values with the names of what they are in, joined by dots; entries of a list by their number, or by their name where each has one
    beside a number.
    """
    if isinstance(value, dict):
        if deep >= DEEPEST:
            return
        for key, inner in value.items():
            yield from _flat(f"{path}.{key}" if path else str(key), inner, deep + 1)
    elif isinstance(value, list):
        for number, inner in enumerate(value[:LONGEST]):
            named = _named(inner)
            if named is not None:
                yield f"{path}.{named[0]}", named[1]
            else:
                yield from _flat(f"{path}.{number}", inner, deep + 1)
    else:
        yield path, value


def _named(entry: Any) -> tuple[str, Any] | None:
    """(name, number) of an entry such as {"name": "jawOpen", "value": 0.2}; None for another."""
    if not isinstance(entry, dict):
        return None
    words = [v for v in entry.values() if isinstance(v, str)]
    numbers = [v for v in entry.values() if isinstance(v, int | float) and not isinstance(v, bool)]
    return (words[0], numbers[0]) if len(words) == len(numbers) == 1 else None
