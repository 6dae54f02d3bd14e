"""Changes to a document as values at paths, so that any of them can be taken back and conflicts can be named.

A path is keys joined by "/" ("tidy/steps/s2/on"); lists are values as a whole, never walked into.
"""

import copy
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from dynaface.core.errors import InputError

MAX_CHANGES = 500
_ABSENT = object()


@dataclass(frozen=True)
class Change:
    """A value at a path before and after; `had` and `has` say whether there was and is one."""

    path: str
    before: Any = None
    after: Any = None
    had: bool = True
    has: bool = True

    def inverted(self) -> "Change":
        """The change that takes this one back."""
        return Change(self.path, self.after, self.before, self.has, self.had)

    def describe(self) -> dict[str, Any]:
        """As plain data."""
        return {"path": self.path, "before": self.before, "after": self.after, "had": self.had, "has": self.has}


def _keys(path: str) -> list[str]:
    keys = path.split("/")
    if not path or len(path) > 400 or any(not k for k in keys):
        raise InputError(f"{path!r} is no path in a document")
    return keys


def value_at(body: Mapping[str, Any], path: str) -> Any:
    """(has, value) at a path."""
    here: Any = body
    for key in _keys(path):
        if not isinstance(here, Mapping) or key not in here:
            return False, None
        here = here[key]
    return True, here


def _put(body: dict[str, Any], path: str, value: Any) -> None:
    *above, last = _keys(path)
    here = body
    for key in above:
        here = here.setdefault(key, {})
        if not isinstance(here, dict):
            raise InputError(f"there is nothing to change at {path!r}")
    if value is _ABSENT:
        here.pop(last, None)
    else:
        here[last] = copy.deepcopy(value)


def changes_for(body: Mapping[str, Any], wanted: Sequence[Mapping[str, Any]]) -> list[Change]:
    """Changes that give paths the wanted values: each {"path", "value"} or {"path", "remove": true}.

    What is already so is left out.
    """
    if len(wanted) > MAX_CHANGES:
        raise InputError(f"{len(wanted)} changes at once", hint=f"At most {MAX_CHANGES}")
    out = []
    for item in wanted:
        path = str(item["path"])
        had, before = value_at(body, path)
        has = not item.get("remove", False)
        after = item.get("value") if has else None
        if had != has or before != after:
            out.append(Change(path, before, after, had, has))
    return out


def applied(body: Mapping[str, Any], changes: Sequence[Change]) -> dict[str, Any]:
    """The document with the changes made; the one given stays as it is."""
    out = copy.deepcopy(dict(body))
    for change in changes:
        _put(out, change.path, change.after if change.has else _ABSENT)
    return out


def fits(body: Mapping[str, Any], changes: Sequence[Change]) -> Change | None:
    """The first change whose result is no longer what the document holds, or None: then it can be taken back."""
    for change in changes:
        has, value = value_at(body, change.path)
        if has != change.has or value != change.after:
            return change
    return None


def overlap(a: str, b: str) -> bool:
    """Whether one path is the other or lies inside it."""
    return a == b or a.startswith(b + "/") or b.startswith(a + "/")
