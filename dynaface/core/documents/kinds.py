"""The kinds of documents and what each may hold."""

import re
from collections.abc import Callable, Mapping
from typing import Any

from dynaface.core import checks
from dynaface.core.body.join import parse_join
from dynaface.core.cast.sheet import parse_sheet
from dynaface.core.dots.dot import parse_dots
from dynaface.core.dots.hand import MAX_CORRECTIONS
from dynaface.core.dots.hand import parse_correction
from dynaface.core.errors import InputError
from dynaface.core.markers.layout import parse_layout
from dynaface.core.shapes.standard import SHAPES
from dynaface.core.solve.drive_by_landmarks import parse_place_drives
from dynaface.core.solve.pins import MAX_PINS, parse_pin
from dynaface.core.tidy.hand import parse_hand
from dynaface.core.tidy.stack import STEPS, Placed, placed

Body = dict[str, Any]
_ID = re.compile(r"^[0-9a-f]{8}(-[0-9a-f]{4}){3}-[0-9a-f]{12}$")
MAX_STEPS = 120
MAX_DISMISSED = 2000
MAX_VERSIONS = 100
SOURCE_KINDS = ("curves", "sound", "body", "footage", "markers")


def new_take(slate: str, performer: str, sources: Mapping[str, str], **more: Any) -> Body:
    """The body of a take with the steps that every take begins with. Smoothing waits for the animator: it smears what
    should be mended first.
    """
    return {
        "slate": slate,
        "performer": performer,
        "notes": "",
        "circled": False,
        "archived": False,
        "sources": dict(sources),
        "soundOffset": 0.0,
        "tidy": {
            "order": ["even", "smooth", "strength"],
            "steps": {
                "even": {"step": "even out time", "on": True},
                "smooth": {"step": "smooth", "on": False},
                "strength": {"step": "strength", "on": True},
            },
        },
        **more,
    }


def stack_of(take: Mapping[str, Any]) -> tuple[Placed, ...]:
    """The tidy stack of a take; raises InputError."""
    tidy = take["tidy"]
    out = []
    for number, key in enumerate(tidy["order"], 1):
        item = tidy["steps"].get(key)
        if not isinstance(item, Mapping) or "step" not in item:
            raise InputError(f"the tidy stack names a step {key!r} that is not there", where=f"step {number}")
        given = {k: v for k, v in item.items() if k not in ("step", "on")}
        out.append(placed(str(item["step"]), given, item.get("on", True), f"step {number}, {item['step']}"))
    return tuple(out)


def _text(body: Mapping[str, Any], key: str, longest: int, needed: bool = False) -> None:
    value = body.get(key, "")
    if not isinstance(value, str) or len(value) > longest:
        raise InputError(f"{key} must be text of at most {longest} letters")
    if needed and not value.strip():
        raise InputError(f"{key} is empty", hint="Give it a name")


def _flag(body: Mapping[str, Any], key: str) -> None:
    if not isinstance(body.get(key, False), bool):
        raise InputError(f"{key} must be true or false")


def _only(body: Mapping[str, Any], allowed: tuple[str, ...], name: str) -> None:
    for key in body:
        checks.one_of(f"{name} field", key, allowed)


def check_take(body: Mapping[str, Any]) -> None:
    """Raises InputError when a take may not be so."""
    _only(body, ("slate", "performer", "notes", "circled", "archived", "sources", "soundOffset", "tidy", "character",
                 "range", "pins", "hand", "dismissed", "dots"), "take")  # fmt: skip
    _text(body, "slate", 80, needed=True)
    _text(body, "performer", 80)
    _text(body, "notes", 4000)
    _flag(body, "circled")
    _flag(body, "archived")
    sources = body.get("sources", {})
    for kind, source in sources.items():
        checks.one_of("source", kind, SOURCE_KINDS)
        if not isinstance(source, str) or not _ID.match(source):
            raise InputError(f"the {kind} source is named {source!r}")
    chosen = body.get("character")
    if chosen is not None and (not isinstance(chosen, str) or not _ID.match(chosen)):
        raise InputError(f"the character is named {chosen!r}")
    checks.within("soundOffset", body.get("soundOffset", 0.0), -60, 60)
    pins = body.get("pins", {})
    if not isinstance(pins, Mapping) or len(pins) > MAX_PINS:
        raise InputError(f"a take has at most {MAX_PINS} pins, each under a name of its own")
    for pin in pins.values():
        parse_pin(pin)
    parse_hand(body.get("hand", {}))
    corrections = body.get("dots", {})
    if not isinstance(corrections, Mapping) or len(corrections) > MAX_CORRECTIONS:
        raise InputError(f"a take has at most {MAX_CORRECTIONS} corrections of dots, each under a name of its own")
    for correction in corrections.values():
        parse_correction(correction)
    _dismissed(body.get("dismissed", {}))
    check_tidy(body.get("tidy"))


def _dismissed(given: Any) -> None:
    """Snags that somebody looked at and let be, each with a reason."""
    if not isinstance(given, Mapping) or len(given) > MAX_DISMISSED:
        raise InputError(f"a take keeps at most {MAX_DISMISSED} dismissed snags")
    for key, entry in given.items():
        if not isinstance(entry, Mapping) or not set(entry) <= {"kind", "reason", "first", "last"}:
            raise InputError("a dismissed snag has a kind, a reason and its frames", where=str(key))
        if not isinstance(entry.get("reason"), str) or len(entry["reason"]) > 200:
            raise InputError("the reason must be text of at most 200 letters", where=str(key))


def check_tidy(tidy: Any) -> None:
    """Raises InputError when a tidy stack may not be so."""
    if not isinstance(tidy, Mapping) or set(tidy) != {"order", "steps"} or not isinstance(tidy["steps"], Mapping):
        raise InputError("a tidy stack has an order and steps")
    order = tidy["order"]
    if not isinstance(order, list) or sorted(map(str, order)) != sorted(tidy["steps"]) or len(order) > MAX_STEPS:
        raise InputError("the order of the tidy stack must name each of its steps once")
    stack = stack_of({"tidy": tidy})
    if not stack or stack[0].step.kind != "retiming":
        raise InputError(f"{STEPS['even out time'].label} must stay the first step")
    if sum(p.step.kind == "retiming" for p in stack) > 1:
        raise InputError(f"{STEPS['even out time'].label} can be there once only")


def check_character(body: Mapping[str, Any]) -> None:
    """Raises InputError when a character may not be so."""
    _only(body, ("name", "source", "archived", "notes", "versions"), "character")
    _text(body, "name", 80, needed=True)
    versions = body.get("versions", [])
    if not isinstance(versions, list) or len(versions) > MAX_VERSIONS:
        raise InputError(f"a character keeps at most {MAX_VERSIONS} versions")
    for version in versions:
        if (
            not isinstance(version, Mapping)
            or not set(version) <= {"source", "file"}
            or not _ID.match(str(version.get("source")))
        ):
            raise InputError("a version of a character names its source and its file")
    _flag(body, "archived")


def check_cast(body: Mapping[str, Any]) -> None:
    """Raises InputError when a cast sheet may not be so."""
    parse_sheet({k: v for k, v in body.items() if k not in ("performer", "character")})


def check_join(body: Mapping[str, Any]) -> None:
    """Raises InputError when a join may not be so."""
    parse_join({k: v for k, v in body.items() if k != "take"})


def check_card(body: Mapping[str, Any]) -> None:
    """Raises InputError when a performer card may not be so."""
    _only(
        body,
        ("name", "performer", "day", "footage", "neutral", "samples", "again", "source", "archived", "notes", "off", "drives"),
        "card",
    )  # fmt: skip
    parse_place_drives(body.get("drives", {}))
    _text(body, "name", 80, needed=True)
    _text(body, "performer", 80)
    _text(body, "day", 20)
    _text(body, "notes", 4000)
    _flag(body, "archived")
    off = body.get("off", [])
    if not isinstance(off, list) or len(set(map(str, off))) != len(off):
        raise InputError("the shapes that are switched off must be a list in which each is named once")
    for shape in off:
        checks.one_of("shape", shape, SHAPES)


LAYOUT_OWN, DOTS_OWN = (("name", "performer", "day", made_from, "archived") for made_from in ("markers", "footage"))


def check_layout(body: Mapping[str, Any]) -> None:
    """Raises InputError when a marker layout may not be so."""
    _of_a_day(body, "markers")
    parse_layout({k: v for k, v in body.items() if k not in LAYOUT_OWN})


def check_dots(body: Mapping[str, Any]) -> None:
    """Raises InputError when a layout of colour dots may not be so."""
    _of_a_day(body, "footage")
    parse_dots({"dynafaceDots": 1, **{k: v for k, v in body.items() if k not in DOTS_OWN}})


def _of_a_day(body: Mapping[str, Any], made_from: str) -> None:
    """What layouts of a performer and day have in common; the parsers know their other fields."""
    if {"dynafaceLayout", "dynafaceDots"} & set(body):
        raise InputError("a stored layout names no version of a file")
    _text(body, "name", 80, needed=True)
    _text(body, "performer", 80)
    _text(body, "day", 20)
    _flag(body, "archived")
    if not _ID.match(str(body.get(made_from))):
        raise InputError(f"the {made_from} of a layout is named {body.get(made_from)!r}")


def check_stack(body: Mapping[str, Any]) -> None:
    """Raises InputError when a saved stack may not be so."""
    _only(body, ("name", "tidy", "archived"), "stack")
    _text(body, "name", 80, needed=True)
    _flag(body, "archived")
    check_tidy(body.get("tidy"))


CHECKS: dict[str, Callable[[Mapping[str, Any]], None]] = {
    "take": check_take,
    "character": check_character,
    "card": check_card,
    "cast": check_cast,
    "join": check_join,
    "stack": check_stack,
    "layout": check_layout,
    "dots": check_dots,
}
