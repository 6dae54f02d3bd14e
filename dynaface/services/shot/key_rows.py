"""Keys as a document stores them: a table by id."""

from collections.abc import Iterable
from dataclasses import replace
from uuid import uuid4

from dynaface.core.curves.keys import Key


def key_rows(keys: Iterable[Key]) -> dict[str, object]:
    """Plain keys by id; a key without one gets one of its own."""
    named = (k if k.id else replace(k, id=uuid4().hex[:12]) for k in keys)
    return {k.id: k.plain() for k in named}
