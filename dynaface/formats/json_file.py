"""JSON that people bring: read with a message that names the file."""

import json
from typing import Any

from dynaface.core.errors import InputError, LimitError
from dynaface.core.plain import bounded

MAX_BYTES = 4_000_000


def read_json(data: bytes, name: str) -> Any:
    """The value; raises InputError for what is no JSON, LimitError beyond 4 MB."""
    if len(data) > MAX_BYTES:
        raise LimitError(f"{name} is {len(data) / 1e6:.0f} MB", hint="At most 4 MB are read")
    try:
        value = json.loads(data)
    except (ValueError, RecursionError) as error:
        raise InputError(f"{name} is no JSON: {str(error)[:100]}", hint="Export it again") from None
    return bounded(value, name)


def read_table(data: bytes, name: str) -> dict[str, Any]:
    """A JSON object; raises InputError."""
    found = read_json(data, name)
    if not isinstance(found, dict):
        raise InputError(f"{name} must be a table", hint="docs/formats.md shows one")
    return found
