"""Cast sheets that move: to another character under a take, to a newer version of a rig, to another performer, to a file."""

import json
from collections.abc import Mapping
from dataclasses import replace
from typing import Any

from dynaface.core.cast.carry import compare_builds, compare_sheets, same_build, translate_sheet
from dynaface.core.cast.character import Character
from dynaface.core.cast.matching import match_targets
from dynaface.core.cast.sheet import CastSheet, describe_sheet, parse_sheet
from dynaface.core.errors import InputError
from dynaface.core.records.records import Document, Source
from dynaface.formats.sheet_file import read_sheet, write_sheet
from dynaface.services.edit_document import edit_document
from dynaface.services.import_take import store_character
from dynaface.services.load_source import load_character, load_geometry
from dynaface.services.open_take import cast_key, new_cast, open_take
from dynaface.services.work import Work, document_for, source_for

PROPORTIONS = (
    "regionStrength",
    "wayStrength",
    "shapeStrength",
    "below",
    "bend",
    "directions",
    "shapeOffset",
    "shapeLimit",
)


def sheet_of(document: Document | None) -> CastSheet:
    """The sheet in a cast document."""
    body = document.body if document else {}
    return parse_sheet({k: v for k, v in body.items() if k not in ("performer", "character")})


def _character(work: Work, character: str) -> tuple[Document, Source, Character]:
    with work.store.unit() as unit:
        found = document_for(work, unit, character, "character")
        source = source_for(work, unit, found.body["source"])
    return found, source, replace(load_character(work, source), name=found.body["name"])


def foresee_swap(work: Work, take: str, character: str) -> dict[str, Any]:
    """What would change if the take were on another character: whether a sheet is there, and what would be carried."""
    opened, old, new, existing = _swap(work, take, character)
    if existing is not None or old is None:
        words, carried = [], False
    else:
        words, carried = translate_sheet(sheet_of(opened["cast"]), old, new)[1], True
    report = match_targets(new, sheet_of(existing))
    return {
        "sheet": "own" if existing is not None else "carried" if carried else "new",
        "sameBuild": old is not None and same_build(old, new),
        "words": words,
        "matched": len(report.matched),
        "drives": len(report.drives),
        "missing": list(report.missing),
        "unused": list(report.unused),
    }


def _swap(work: Work, take: str, character: str) -> tuple[dict[str, Any], Character | None, Character, Document | None]:
    opened = open_take(work, take)
    found, _, new = _character(work, character)
    if found.production != opened["take"].production:
        raise InputError("this character belongs to another production", hint="Bring it into this one")
    old = _character(work, opened["character"].id)[2] if opened["character"] is not None else None
    with work.store.unit() as unit:
        existing = unit.documents.by_key(found.production, "cast", cast_key(opened["take"], found))
    return opened, old, new, existing


def swap_character(work: Work, take: str, character: str) -> Document:
    """Puts a take on another character in one change; where the performer has no sheet for it, the present one is carried."""
    opened, old, new, existing = _swap(work, take, character)
    with work.store.unit() as unit:
        target = document_for(work, unit, character, "character")
        if existing is None:
            carried = translate_sheet(sheet_of(opened["cast"]), old, new)[0] if old is not None else CastSheet()
            new_cast(unit, opened["take"], target, describe_sheet(carried))
    label = f"cast on {target.body['name']}"
    return edit_document(work, take, opened["take"].version, label, [{"path": "character", "value": character}])


def renew_character(work: Work, character: str, given: Mapping[str, Any]) -> dict[str, Any]:
    """A newer version of a rig: the differences, with all sheets carried over; the old version is kept."""
    found, source, old = _character(work, character)
    fresh = store_character(work, found.production, given)
    new = load_character(work, fresh)
    change = compare_builds((old, load_geometry(work, source)), (new, load_geometry(work, fresh)))
    versions = [*found.body.get("versions", []), {"source": source.id, "file": source.name}]
    label = f"newer version of {found.body['name']}"
    stood: list[dict[str, Any]] = [{"path": "source", "value": fresh.id}, {"path": "versions", "value": versions}]
    edited = edit_document(work, character, found.version, label, stood)
    words: list[str] = []
    with work.store.unit() as unit:
        sheets = [c for c in unit.documents.of_kind(found.production, "cast") if c.body["character"] == character]
    for sheet in sheets:
        made, said = translate_sheet(sheet_of(sheet), old, new, change.renamed)
        plain = describe_sheet(made)
        wanted: list[dict[str, Any]] = [
            {"path": f, "value": plain.get(f, {})} for f in ("matches", "combinations", "joints")
        ]
        edit_document(
            work, sheet.id, sheet.version, label, [w for w in wanted if w["value"] or w["path"] in sheet.body]
        )
        words += [w for w in said if w not in words]
    return {"character": edited, "change": change.describe(), "words": words}


def copy_sheet(work: Work, take: str, performer: str) -> Document:
    """The sheet of another performer for this take's performer and character, without its proportions."""
    opened = open_take(work, take)
    if opened["character"] is None:
        raise InputError("the take has no character", hint="Choose one first")
    if performer == opened["take"].body["performer"]:
        raise InputError(f"this is the sheet of {performer} already", hint="Choose another performer's")
    with work.store.unit() as unit:
        key = f"{performer}|{opened['character'].id}"
        theirs = unit.documents.by_key(opened["take"].production, "cast", key)
    if theirs is None:
        raise InputError(f"{performer} has no sheet for {opened['character'].body['name']}")
    plain = {k: v for k, v in describe_sheet(sheet_of(theirs)).items() if k not in PROPORTIONS}
    return replace_sheet(work, opened["cast"], plain, f"matches of {performer}", keep=PROPORTIONS)


def replace_sheet(
    work: Work, cast: Document, plain: Mapping[str, Any], label: str, keep: tuple[str, ...] = ()
) -> Document:
    """Puts a whole sheet in place of what stands there, in one change that can be undone."""
    parse_sheet(plain)
    old = {k: v for k, v in cast.body.items() if k not in ("performer", "character", *keep)}
    changes = [{"path": k, "value": v} for k, v in plain.items() if old.get(k) != v]
    changes += [{"path": k, "value": {}} for k, v in old.items() if k not in plain and isinstance(v, dict) and v]
    return edit_document(work, cast.id, cast.version, label[:120], changes)


def export_sheet(work: Work, take: str) -> tuple[str, bytes]:
    """(file name, bytes) of the take's sheet."""
    opened = open_take(work, take)
    if opened["cast"] is None:
        raise InputError("the take has no character, so it has no sheet", hint="Choose a character first")
    performer, character = opened["take"].body["performer"], opened["character"].body["name"]
    name = "".join(c if c.isalnum() else "_" for c in f"{performer}_{character}").strip("_").lower()
    return f"{name}_sheet.json", write_sheet(sheet_of(opened["cast"]), performer, character)


def _file(work: Work, given: Mapping[str, Any]) -> CastSheet:
    try:
        return read_sheet(work.media.get(given["media"]))
    except InputError as error:
        raise InputError(f"{given['name']}: {error.message}", where=error.where, hint=error.hint) from None


def import_sheet(work: Work, take: str, given: Mapping[str, Any]) -> Document:
    """An uploaded sheet in place of the take's."""
    opened = open_take(work, take)
    if opened["cast"] is None:
        raise InputError("the take has no character, so it has no sheet", hint="Choose a character first")
    sheet = _file(work, given)
    return replace_sheet(work, opened["cast"], describe_sheet(sheet), f"sheet of {given['name']}")


def compare_sheet(work: Work, take: str, given: Mapping[str, Any]) -> list[dict[str, Any]]:
    """Where an uploaded sheet differs from the take's."""
    opened = open_take(work, take)
    differ = compare_sheets(sheet_of(opened["cast"]), _file(work, given))
    return [{"field": f, "name": n, "ours": json.dumps(a), "theirs": json.dumps(b)} for f, n, a, b in differ]
