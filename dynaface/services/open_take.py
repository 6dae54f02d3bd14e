"""Opening takes: the list of a production, and everything that belongs to one take."""

from collections.abc import Mapping
from typing import Any

from dynaface.core.documents.kinds import new_take
from dynaface.core.records.records import Document, Source
from dynaface.services.work import Work, allow, document_for
from dynaface.store.unit import Unit

FRESH: Mapping[str, Any] = {"contacts": {"lips": True, "lids": True}}


def list_takes(work: Work, production: str) -> list[dict[str, Any]]:
    """All takes with what they hold and how far along they are, oldest first."""
    with work.store.unit() as unit:
        allow(unit, production, work.person)
        takes = unit.documents.of_kind(production, "take")
        wanted = [s for t in takes for s in t.body["sources"].values()]
        sources = {s.id: s for s in unit.sources.many(wanted)}
        handed = {h.document for h in unit.jobs.handovers_of(production)}
    return [_row(t, sources, t.id in handed) for t in takes]


def _row(take: Document, sources: dict[str, Source], handed: bool) -> dict[str, Any]:
    held = {k: sources[s] for k, s in take.body["sources"].items() if s in sources}
    curves = held["curves"].info if "curves" in held else {}
    footage = held["footage"].info if "footage" in held else {}
    markers = held["markers"].info if "markers" in held else {}
    sound = held["sound"].info if "sound" in held else {}
    body = held["body"].info if "body" in held else {}
    untouched = new_take("", "", {})["tidy"]
    return {
        "id": take.id,
        "version": take.version,
        "slate": take.body["slate"],
        "performer": take.body["performer"],
        "notes": take.body["notes"],
        "circled": take.body["circled"],
        "archived": take.body["archived"],
        "seconds": curves.get("span")
        or footage.get("seconds")
        or markers.get("seconds")
        or sound.get("seconds")
        or body.get("seconds")
        or 0.0,
        "rate": curves.get("nominalRate") or footage.get("rate") or markers.get("rate") or body.get("rate") or "",
        "timecode": curves.get("timecode")
        or footage.get("timecode")
        or markers.get("timecode")
        or body.get("timecode")
        or "",
        "holds": sorted(held),
        "faults": sum(int(curves.get(k, 0)) for k in ("dropped", "doubled", "uneven")),
        "snags": curves.get("snags"),
        "stages": {
            "gather": bool({"curves", "footage", "markers"} & set(held)),
            "solve": "curves" in held,
            "tidy": take.body["tidy"] != untouched or bool(take.body.get("hand")),
            "cast": "character" in take.body,
            "join": "body" in held,
            "handover": handed,
        },
    }


def list_characters(work: Work, production: str) -> list[dict[str, Any]]:
    """All characters that are not archived."""
    with work.store.unit() as unit:
        allow(unit, production, work.person)
        found = unit.documents.of_kind(production, "character")
        sources = {s.id: s for s in unit.sources.many([c.body["source"] for c in found])}
    return [
        {"id": c.id, "version": c.version, "name": c.body["name"], "source": c.body["source"],
         "info": sources[c.body["source"]].info}
        for c in found if not c.body.get("archived")
    ]  # fmt: skip


def open_take(work: Work, take: str) -> dict[str, Any]:
    """A take with its sources, its character, its cast sheet and its join; the last two are made when absent."""
    with work.store.unit() as unit:
        found = document_for(work, unit, take, "take")
        sources = unit.sources.many(list(found.body["sources"].values()))
        character = _character(unit, found)
        cast = cast_sheet(unit, found, character) if character else None
        join = join_of(unit, found)
    return {"take": found, "sources": {s.kind: s for s in sources}, "character": character, "cast": cast, "join": join}


def _character(unit: Unit, take: Document) -> Document | None:
    chosen = take.body.get("character")
    if chosen:
        found = unit.documents.get(chosen)
        if found and found.production == take.production and found.kind == "character":
            return found
    present = [c for c in unit.documents.of_kind(take.production, "character") if not c.body.get("archived")]
    return present[0] if present else None


def cast_key(take: Document, character: Document) -> str:
    """What makes a sheet the only one of its performer and character."""
    return f"{take.body['performer']}|{character.id}"


def cast_sheet(unit: Unit, take: Document, character: Document) -> Document:
    """The cast sheet of the take's performer and the character; a new one keeps lips and lids in contact."""
    found = unit.documents.by_key(take.production, "cast", cast_key(take, character))
    return found or new_cast(unit, take, character, FRESH)


def empty_cast(take: Document, character: Document) -> Document:
    """The sheet that the two would begin with; it is not stored."""
    body = {"performer": take.body["performer"], "character": character.id, **FRESH}
    return Document("", take.production, "cast", cast_key(take, character), 0, body, take.created)


def new_cast(unit: Unit, take: Document, character: Document, sheet: Mapping[str, Any]) -> Document:
    """A sheet of the take's performer for a character."""
    empty: dict[str, Any] = {"regionStrength": {}, "shapeStrength": {}, "matches": {}}
    body = {"performer": take.body["performer"], "character": character.id, **empty, **sheet}
    return unit.documents.add(take.production, "cast", body, cast_key(take, character))


def join_of(unit: Unit, take: Document) -> Document:
    """The join of the take."""
    found = unit.documents.by_key(take.production, "join", take.id)
    return found or unit.documents.add(
        take.production, "join", {"take": take.id, "headWeight": 1.0, "nudge": 0.0}, take.id
    )
