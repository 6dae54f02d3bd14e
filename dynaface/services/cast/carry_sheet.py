"""Cast sheets that move: to another character under a take, to a newer version of a rig, to another performer, to a file."""

import json
from collections.abc import Mapping
from dataclasses import dataclass, replace
from typing import Any

from dynaface.core.cast.carry import compare_builds, compare_sheets, same_build, translate_sheet
from dynaface.core.cast.character import Character
from dynaface.core.cast.matching import match_targets
from dynaface.core.cast.sheet import CastSheet
from dynaface.core.documents.model.cast import FRESH, CastBody, cast_body, fields_of
from dynaface.core.documents.model.character import CharacterBody
from dynaface.core.documents.model.take import TakeBody
from dynaface.core.errors import InputError, said_of
from dynaface.core.records.records import Document, Source
from dynaface.formats.sheet_file import read_sheet, write_sheet
from dynaface.services.cast.carry_touchups import carry_touchups
from dynaface.services.edit_document import change_document, edit_document
from dynaface.services.load_source import load_character, load_geometry
from dynaface.services.media.uploaded import uploaded
from dynaface.services.take.import_take import store_character
from dynaface.services.take.open_take import new_cast, open_take
from dynaface.services.take.snapshot import Documents, cast_key, read_documents
from dynaface.services.work import Work, document_for, source_within

NAMED = ("matches", "combinations", "joints")
"""Fields whose entries are names of a rig."""
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


def _character(work: Work, character: str) -> tuple[Document[CharacterBody], Source, Character]:
    with work.store.unit() as unit:
        found = document_for(work, unit, character, CharacterBody)
        source = source_within(unit, found.production, found.body.source, "character")
    return found, source, replace(load_character(work, source), name=found.body.name)


@dataclass(frozen=True)
class _Swap:
    """A take and the character that it goes to. sheet: what is stored for the two, None where nothing is."""

    opened: Documents
    old: Character | None
    target: Document[CharacterBody]
    new: Character
    sheet: CastSheet | None

    @property
    def carried(self) -> tuple[CastSheet, list[str]]:
        """The take's present sheet on the other character, and what is said of it."""
        if self.old is None or self.opened.cast is None:
            return FRESH, []
        return translate_sheet(self.opened.cast.body.sheet, self.old, self.new)[:2]


def _swap(work: Work, take: str, character: str) -> _Swap:
    with work.store.snapshot() as unit:
        opened = read_documents(work, unit, take)
    found, _, new = _character(work, character)
    if found.production != opened.take.production:
        raise InputError("this character belongs to another production", hint="Bring it into this one")
    old = _character(work, opened.character.id)[2] if opened.character is not None else None
    with work.store.unit() as unit:
        existing = unit.documents.by_key(found.production, CastBody, cast_key(opened.take.body.performer, found.id))
    return _Swap(opened, old, found, new, existing.body.sheet if existing else None)


def foresee_swap(work: Work, take: str, character: str) -> dict[str, Any]:
    """What would change if the take were on another character: whether a sheet is there, and what would be carried."""
    swap = _swap(work, take, character)
    carries = swap.sheet is None and swap.old is not None
    report = match_targets(swap.new, swap.sheet or CastSheet())
    return {
        "sheet": "own" if swap.sheet is not None else "carried" if carries else "new",
        "sameBuild": swap.old is not None and same_build(swap.old, swap.new),
        "words": swap.carried[1] if carries else [],
        "matched": len(report.matched),
        "drives": len(report.drives),
        "missing": list(report.missing),
        "unused": list(report.unused),
    }


def swap_character(work: Work, take: str, character: str) -> Document[TakeBody]:
    """Puts a take on another character in one change; where the performer has no sheet for it, the present one is carried."""
    swap = _swap(work, take, character)
    found = swap.opened.take
    if swap.sheet is None:
        with work.store.unit() as unit:
            new_cast(unit, found.production, cast_body(found.body.performer, character, swap.carried[0]))
    label = f"cast on {swap.target.body.name}"
    return change_document(work, take, TakeBody, found.version, label, [{"path": "character", "value": character}])


def renew_character(work: Work, character: str, given: Mapping[str, Any]) -> dict[str, Any]:
    """A newer version of a rig: the differences, with all sheets and touch-up layers carried over; the old version is kept."""
    found, source, old = _character(work, character)
    fresh = store_character(work, found.production, given)
    new = load_character(work, fresh)
    change = compare_builds((old, load_geometry(work, source)), (new, load_geometry(work, fresh)))
    versions = [*found.body.plain()["versions"], {"source": source.id, "file": source.name}]
    label = f"newer version of {found.body.name}"
    stood: list[dict[str, Any]] = [{"path": "source", "value": fresh.id}, {"path": "versions", "value": versions}]
    edited = edit_document(work, character, found.version, label, stood)
    words: list[str] = []
    with work.store.unit() as unit:
        sheets = [c for c in unit.documents.of_kind(found.production, CastBody) if c.body.character == character]
    for sheet in sheets:
        made, said = translate_sheet(sheet.body.sheet, old, new, change.renamed)
        replace_sheet(work, sheet, made, label, NAMED)
        words += [w for w in said if w not in words]
    words += carry_touchups(work, found, old, new, change.renamed or {}, label)
    return {"character": edited, "change": change.describe(), "words": words}


def copy_sheet(work: Work, take: str, performer: str) -> Document[CastBody]:
    """The sheet of another performer for this take's performer and character, without its proportions."""
    opened = _with_cast(work, take)
    if performer == opened.take.body.performer:
        raise InputError(f"this is the sheet of {performer} already", hint="Choose another performer's")
    with work.store.unit() as unit:
        theirs = unit.documents.by_key(opened.take.production, CastBody, cast_key(performer, opened.character.id))
    if theirs is None:
        raise InputError(f"{performer} has no sheet for {opened.character.body.name}")
    fields = tuple(f for f in fields_of(theirs.body.sheet) if f not in PROPORTIONS)
    return replace_sheet(work, opened.cast, theirs.body.sheet, f"matches of {performer}", fields)


def replace_sheet(
    work: Work, cast: Document[CastBody], sheet: CastSheet, label: str, fields: tuple[str, ...] = ()
) -> Document[CastBody]:
    """Puts a sheet, or only some of its fields, in place of what stands there, in one change that can be undone."""
    plain = fields_of(sheet)
    changes = [{"path": f, "value": plain[f]} for f in fields or tuple(plain)]
    return change_document(work, cast.id, CastBody, cast.version, label[:120], changes)


@dataclass(frozen=True)
class _WithCast:
    """A take that has a character."""

    take: Document[TakeBody]
    character: Document[CharacterBody]
    cast: Document[CastBody]


def _with_cast(work: Work, take: str) -> _WithCast:
    opened = open_take(work, take)
    if opened.character is None or opened.cast is None:
        raise InputError("the take has no character, so it has no sheet", hint="Choose a character first")
    return _WithCast(opened.take, opened.character, opened.cast)


def export_sheet(work: Work, take: str) -> tuple[str, bytes]:
    """(file name, bytes) of the take's sheet."""
    with work.store.snapshot() as unit:
        opened = read_documents(work, unit, take)
    if opened.character is None or opened.cast is None:
        raise InputError("the take has no character, so it has no sheet", hint="Choose a character first")
    performer, character = opened.take.body.performer, opened.character.body.name
    name = "".join(c if c.isalnum() else "_" for c in f"{performer}_{character}").strip("_").lower()
    return f"{name}_sheet.json", write_sheet(opened.cast.body.sheet, performer, character)


def _file(work: Work, production: str, given: Mapping[str, Any]) -> CastSheet:
    with said_of(given["name"]):
        return read_sheet(uploaded(work, production, given["media"]))


def import_sheet(work: Work, take: str, given: Mapping[str, Any]) -> Document[CastBody]:
    """An uploaded sheet in place of the take's."""
    opened = _with_cast(work, take)
    return replace_sheet(work, opened.cast, _file(work, opened.take.production, given), f"sheet of {given['name']}")


def compare_sheet(work: Work, take: str, given: Mapping[str, Any]) -> list[dict[str, Any]]:
    """Where an uploaded sheet differs from the take's."""
    with work.store.snapshot() as unit:
        opened = read_documents(work, unit, take)
    ours = opened.cast.body.sheet if opened.cast else CastSheet()
    differ = compare_sheets(ours, _file(work, opened.take.production, given))
    return [{"field": f, "name": n, "ours": json.dumps(a), "theirs": json.dumps(b)} for f, n, a, b in differ]
