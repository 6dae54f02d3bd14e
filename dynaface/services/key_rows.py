"""Keys as a document stores them: a table by id."""

from collections.abc import Iterable, Mapping
from dataclasses import replace
from typing import Any
from uuid import uuid4

from dynaface.core.curves.keys import Key


def key_rows(keys: Iterable[Key]) -> dict[str, Any]:
    """Plain keys by id. A key that has an id keeps it; new ones are random, so that two people never choose the same."""
    out: dict[str, Any] = {}
    for key in keys:
        name = key.id if key.id and key.id not in out else uuid4().hex[:12]
        out[name] = replace(key, id=name).plain()
    return out


def key_changes(path: str, before: Mapping[str, Any], after: Mapping[str, Any]) -> list[dict[str, Any]]:
    """The changes of a document that bring the table of keys at a path from one state to another; only the keys that differ."""
    out: list[dict[str, Any]] = [{"path": f"{path}/{i}", "remove": True} for i in before if i not in after]
    return out + [{"path": f"{path}/{i}", "value": row} for i, row in after.items() if before.get(i) != row]
