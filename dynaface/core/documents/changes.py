"""Changes to a document as values at paths, so that any of them can be taken back and conflicts can be named.

A path is keys joined by "/" ("tidy/steps/s2/on"); in a key "~1" stands for "/" and "~0" for "~" (RFC 6901). Lists are
values as a whole, never walked into.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from dynaface.core.errors import InputError

MAX_CHANGES = 500  # that a person may ask for at once
MAX_PATH = 600
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
    if not path or len(path) > MAX_PATH or any(not k for k in keys):
        raise InputError(f"{path!r:.80} is no path in a document")
    return [k.replace("~1", "/").replace("~0", "~") for k in keys]


def path_of(*keys: str) -> str:
    """The path of keys, whatever letters they hold."""
    return "/".join(k.replace("~", "~0").replace("/", "~1") for k in keys)


def value_at(body: Mapping[str, Any], path: str) -> Any:
    """(has, value) at a path."""
    here: Any = body
    for key in _keys(path):
        if not isinstance(here, Mapping) or key not in here:
            return False, None
        here = here[key]
    return True, here


def _put(body: Mapping[str, Any], keys: Sequence[str], path: str, value: Any) -> dict[str, Any]:
    """The table with the value put in; only tables on the way to it are copied."""
    out = dict(body)
    first, *rest = keys
    if value is _ABSENT and first not in out:
        return out  # what is gone takes what was in it along
    if rest:
        here = out.get(first, {})
        if not isinstance(here, Mapping):
            raise InputError(f"there is nothing to change at {path!r}")
        out[first] = _put(here, rest, path, value)
    elif value is _ABSENT:
        out.pop(first, None)
    else:
        out[first] = value
    return out


def asked(wanted: Sequence[Mapping[str, Any]]) -> list[Change]:
    """Changes as a person asks for them, each {"path", "value"} or {"path", "remove": true}; what was before is not known."""
    out = []
    for item in wanted:
        has = not item.get("remove", False)
        out.append(Change(str(item["path"]), after=item.get("value") if has else None, has=has))
    return out


def between(before: Mapping[str, Any], after: Mapping[str, Any], paths: Sequence[str]) -> list[Change]:
    """What is different at these paths between two states of a document; equal places are left out.

    Each change holds the final value, so that of several nested ones each can be checked and taken back.
    """
    out = []
    for path in dict.fromkeys(paths):
        (had, old), (has, new) = value_at(before, path), value_at(after, path)
        if had != has or old != new:
            out.append(Change(path, old, new, had, has))
    return out


def applied(body: Mapping[str, Any], changes: Sequence[Change]) -> dict[str, Any]:
    """The document with the changes made, one after the other; the one given stays as it is."""
    out = dict(body)
    for change in changes:
        out = _put(out, _keys(change.path), change.path, change.after if change.has else _ABSENT)
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
