"""Opening takes: the list of a production, and everything that belongs to one take."""

from dataclasses import replace
from typing import Any

from dynaface.core.documents.model.cast import CastBody
from dynaface.core.documents.model.character import CharacterBody
from dynaface.core.documents.model.take import TakeBody
from dynaface.core.documents.model.tidy import fresh_tidy
from dynaface.core.records.records import Document, Source
from dynaface.services.take.snapshot import Documents, cast_key, read_documents
from dynaface.services.work import Work, add_document, allow
from dynaface.store.unit import Unit


def list_takes(work: Work, production: str) -> list[dict[str, Any]]:
    """All takes with what they hold and how far along they are, oldest first."""
    with work.store.snapshot() as unit:
        allow(unit, production, work.person)
        takes = unit.documents.of_kind(production, TakeBody)
        wanted = [s for t in takes for s in t.body.sources.held.values()]
        sources = {s.id: s for s in unit.sources.many(wanted) if s.production == production}
        handed = {h.document for h in unit.jobs.handovers_of(production)}
    return [_row(t, sources, t.id in handed) for t in takes]


def _row(take: Document[TakeBody], sources: dict[str, Source], handed: bool) -> dict[str, Any]:
    body = take.body
    held = {k: sources[s] for k, s in body.sources.held.items() if s in sources}
    found = {kind: source.info for kind, source in held.items()}
    curves = found.get("curves", {})

    def first(key: str, *kinds: str) -> Any:
        return next((found[k][key] for k in kinds if found.get(k, {}).get(key)), None)

    return {
        "id": take.id,
        "version": take.version,
        "slate": body.slate,
        "performer": body.performer,
        "notes": body.notes,
        "circled": body.circled,
        "archived": body.archived,
        "seconds": curves.get("span") or first("seconds", "footage", "markers", "sound", "body") or 0.0,
        "rate": curves.get("nominalRate") or first("rate", "footage", "markers", "body") or "",
        "timecode": first("timecode", "curves", "footage", "markers", "body") or "",
        "holds": sorted(held),
        "faults": sum(int(curves.get(k, 0)) for k in ("dropped", "doubled", "uneven")),
        "snags": curves.get("snags"),
        "stages": {
            "gather": bool({"curves", "footage", "markers"} & set(held)),
            "solve": "curves" in held,
            "tidy": body.tidy != fresh_tidy() or bool(body.hand),
            "cast": body.character is not None,
            "join": "body" in held,
            "handover": handed,
        },
    }


def list_characters(work: Work, production: str) -> list[dict[str, Any]]:
    """All characters that are not archived."""
    with work.store.snapshot() as unit:
        allow(unit, production, work.person)
        found = [c for c in unit.documents.of_kind(production, CharacterBody) if not c.body.archived]
        sources = {s.id: s for s in unit.sources.many([c.body.source for c in found]) if s.production == production}
    return [
        {"id": c.id, "version": c.version, "name": c.body.name, "source": c.body.source,
         "info": sources[c.body.source].info}
        for c in found if c.body.source in sources
    ]  # fmt: skip


def see_take(work: Work, take: str) -> Documents:
    """A take with its sources, its character, its cast sheet and its join. Nothing is written."""
    with work.store.snapshot() as unit:
        return read_documents(work, unit, take)


def open_take(work: Work, take: str) -> Documents:
    """The same to be worked on: the cast sheet and the join are stored when they were not yet."""
    with work.store.unit() as unit:
        found = read_documents(work, unit, take)
        cast, join = found.cast, found.join
        if cast is not None and not cast.id:
            cast = add_document(unit, cast.production, cast.body, cast.key)
        if not join.id:
            join = add_document(unit, join.production, join.body, join.key)
    return replace(found, cast=cast, join=join)


def new_cast(unit: Unit, production: str, body: CastBody) -> Document[CastBody]:
    """A stored sheet of a performer for a character; where there is one already, that one."""
    return add_document(unit, production, body, cast_key(body.performer, body.character))
