"""Bodies as earlier releases stored them, brought up to the newest schema: one function a step.

A body without a schema number is of schema 1, as the first release wrote it. Functions take a body and give a new one.
"""

from collections.abc import Callable, Mapping
from typing import Any

from dynaface.core.errors import InputError

Plain = dict[str, Any]


def _ranked(tidy: Any) -> Any:
    """A stack whose order was a list of its own: each step has its rank now. What is no such stack stays, to be refused."""
    if not isinstance(tidy, Mapping) or not isinstance(tidy.get("steps"), Mapping):
        return tidy
    order, steps = tidy.get("order", []), tidy["steps"]
    return {"steps": {k: {**steps[k], "rank": float(n)} for n, k in enumerate(order, 1) if k in steps}}


def _marked(members: Any) -> dict[str, bool]:
    """A list of names as a table of what is marked."""
    return dict.fromkeys(map(str, members or []), True)


def _take_2(body: Plain) -> Plain:
    """Steps carry their rank; keys of a curve have ids; `range` was allowed but meant nothing."""
    hand = {
        channel: {**entry, "keys": {f"k{n}": row for n, row in enumerate(entry["keys"], 1)}}
        for channel, entry in body.get("hand", {}).items()
    }
    kept = {k: v for k, v in body.items() if k != "range"}
    # These could be removed by an edit.
    return {
        "slate": "untitled",
        "performer": "",
        "sources": {},
        **kept,
        "tidy": _ranked(body.get("tidy")),
        "hand": hand,
    }


def _take_3(body: Plain) -> Plain:
    """What is set by hand for solves is called a tack."""
    return {("tacks" if k == "pins" else k): v for k, v in body.items()}


def _stack_2(body: Plain) -> Plain:
    """Steps carry their rank."""
    return {**body, "tidy": _ranked(body.get("tidy"))}


def _cast_2(body: Plain) -> Plain:
    """Contact spans that are off are a table; the document is no longer without any fields of a sheet."""
    contacts = body.get("contacts", {})
    return {**body, "contacts": {**contacts, "off": _marked(contacts.get("off"))}}


def _join_2(body: Plain) -> Plain:
    """The head's weight may be keyed over time."""
    weight = body.get("headWeight", 1.0)
    return {**body, "headWeight": weight if isinstance(weight, Mapping) else {"value": weight, "keys": {}}}


def _join_3(body: Plain) -> Plain:
    """What becomes of a body's way is one of several things."""
    return {**body, "travel": "scaled" if body.get("travel", True) else "spot"}


def _off_2(body: Plain) -> Plain:
    """What is switched off is a table."""
    return {**body, "off": _marked(body.get("off"))}


UPGRADES: dict[str, tuple[Callable[[Plain], Plain], ...]] = {
    "take": (_take_2, _take_3),
    "stack": (_stack_2,),
    "bodystack": (),
    "cast": (_cast_2,),
    "card": (_off_2,),
    "layout": (_off_2,),
    "character": (),
    "join": (_join_2, _join_3),
    "dots": (),
    "shot": (),
    "clip": (),
    "layer": (),
    "words": (),
    "pose": (),
    "profiles": (),
    "presets": (),
    "lineup": (),
    "match": (),
    "measures": (),
    "feedprofile": (),
}
"""By kind: the function at index n brings a body of schema n + 1 to n + 2."""


def upgraded(kind: str, body: Mapping[str, Any]) -> Plain:
    """The body in the newest schema; raises InputError where a later release wrote it."""
    number, steps = body.get("schema", 1), UPGRADES[kind]
    if type(number) is not int or not 1 <= number <= len(steps) + 1:
        raise InputError(
            f"this {kind} is of schema {number!r}; this release reads 1 to {len(steps) + 1}", where="schema",
            hint="Start the newer release",
        )  # fmt: skip
    out = dict(body)
    try:
        for step in steps[number - 1 :]:
            out = step(out)
    except (AttributeError, KeyError, TypeError) as error:
        raise InputError(f"this {kind} of schema {number} can't be brought up: {error}", where=kind) from None
    return {**out, "schema": len(steps) + 1}
