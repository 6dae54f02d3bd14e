"""Keys as a document stores them: a table by id."""

from collections.abc import Iterable, Mapping
from dataclasses import replace
from typing import Any
from uuid import uuid4

from dynaface.core.curves.keys import Key, Keys
from dynaface.core.documents.changes import path_of


def key_rows(keys: Iterable[Key]) -> dict[str, Any]:
    """Plain keys by id. A key that has an id keeps it; new ones are random, so that two people never choose the same."""
    out: dict[str, Any] = {}
    for key in keys:
        name = key.id if key.id and key.id not in out else uuid4().hex[:12]
        out[name] = replace(key, id=name).plain()
    return out


def key_changes(path: str, before: Keys, after: Keys) -> list[dict[str, Any]]:
    """The changes of a document that bring the table of keys at a path from one state to another; only the keys that differ."""
    old, new = key_rows(before), key_rows(after)
    out: list[dict[str, Any]] = [{"path": f"{path}/{i}", "remove": True} for i in old if i not in new]
    return out + [{"path": f"{path}/{i}", "value": row} for i, row in new.items() if old.get(i) != row]


def table_changes(tables: Mapping[str, Keys], made: Mapping[str, Keys | None]) -> list[dict[str, Any]]:
    """The changes of a layer whose channels hold `tables` by which some hold what was made, None for no keys any more."""
    out: list[dict[str, Any]] = []
    for channel, after in made.items():
        before, path = tables.get(channel), path_of("keys", channel)
        if before is not None and after is not None:
            out += key_changes(path, before, after)
        elif after is not None:
            out.append({"path": path, "value": key_rows(after)})
        elif before is not None:
            out.append({"path": path, "remove": True})
    return out
