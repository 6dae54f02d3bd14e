"""Line-ups of a production: begun with takes, listed, opened with all that is known of each recording."""

from collections import Counter
from collections.abc import Sequence
from fractions import Fraction
from typing import Any

from dynaface.core.clock.rates import format_rate, parse_rate
from dynaface.core.documents.model.lineup import LineUpBody
from dynaface.core.documents.model.record import parse
from dynaface.core.documents.model.take import TakeBody
from dynaface.core.errors import InputError
from dynaface.core.records.records import Document
from dynaface.core.sync.moment import apart_from, moment_at
from dynaface.services.edit_document import change_document
from dynaface.services.lineup.recordings import Recorded, recorded
from dynaface.services.work import Work, add_document, allow, document_for
from dynaface.store.unit import Unit

RATE = Fraction(60)
MAX_TAKES = 100


def list_lineups(work: Work, production: str) -> list[dict[str, Any]]:
    """All line-ups that are not archived, the newest first."""
    with work.store.snapshot() as unit:
        allow(unit, production, work.person)
        found = [n for n in unit.documents.of_kind(production, LineUpBody) if not n.body.archived]
    rows = [{"id": n.id, "version": n.version, "name": n.body.name, "sources": len(n.body.sources)} for n in found]
    return rows[::-1]


def make_lineup(work: Work, production: str, name: str, takes: Sequence[str], rate: str = "") -> Document[LineUpBody]:
    """A line-up of all recordings of takes, none of them placed; rate: of the count, "" for the rate that most of them have."""
    with work.store.unit() as unit:
        allow(unit, production, work.person)
        found = recorded(work, unit, _takes(work, unit, production, takes))
        rates = Counter(r.rate for r in found.values() if r.rate)
        fps = parse_rate(rate) if rate else next((r for r, _ in rates.most_common(1)), RATE)
        body = {"name": name, "rate": format_rate(fps), "sources": _entries(found)}
        return add_document(unit, production, parse(LineUpBody, body, "the line-up"))


def choose_takes(work: Work, lineup: str, version: int, takes: Sequence[str]) -> Document[LineUpBody]:
    """The line-up of other takes; recordings that were in it already stay where they are."""
    with work.store.unit() as unit:
        found = document_for(work, unit, lineup, LineUpBody)
        wanted = recorded(work, unit, _takes(work, unit, found.production, takes))
    kept = {k: e.plain() for k, e in found.body.sources.items() if k in wanted}
    change = {"path": "sources", "value": _entries(wanted) | kept}
    return change_document(work, lineup, LineUpBody, version, "choose takes", [change])


def _entries(found: dict[str, Recorded]) -> dict[str, Any]:
    return {key: {"take": r.take.id, "part": r.part} for key, r in found.items()}


def _takes(work: Work, unit: Unit, production: str, takes: Sequence[str]) -> list[Document[TakeBody]]:
    if len(takes) > MAX_TAKES:
        raise InputError(f"{len(takes)} takes at once", hint=f"At most {MAX_TAKES}")
    found = [document_for(work, unit, t, TakeBody) for t in dict.fromkeys(takes)]
    if any(t.production != production for t in found):
        raise InputError("a take belongs to another production")
    return found


def read_lineup(work: Work, unit: Unit, lineup: str) -> tuple[Document[LineUpBody], dict[str, Recorded]]:
    """(the line-up, what its takes recorded, by key, slate by slate); recordings that are not there any more are left out."""
    found = document_for(work, unit, lineup, LineUpBody)
    ids = list(dict.fromkeys(e.take for e in found.body.sources.values()))
    known = {t.id: t for t in unit.documents.of_kind(found.production, TakeBody)}
    takes = sorted((known[i] for i in ids if i in known), key=lambda t: (t.body.slate, t.body.performer, t.id))
    return found, recorded(work, unit, takes)


def open_lineup(work: Work, lineup: str) -> dict[str, Any]:
    """{"lineup": the document, "rows": a row each recording}."""
    with work.store.snapshot() as unit:
        found, held = read_lineup(work, unit, lineup)
    body = found.body
    spans = {
        key: (e.at, e.at + held[key].seconds) for key, e in body.sources.items() if e.at is not None and key in held
    }
    alone = apart_from(spans)
    rows = [_row(body, key, held[key], alone.get(key, ())) for key in held if key in body.sources]
    return {"lineup": found, "rows": rows}


def _row(body: LineUpBody, key: str, found: Recorded, apart: tuple[str, ...]) -> dict[str, Any]:
    entry, begins, code = body.sources[key], body.begins, found.timecode
    at = moment_at(begins, entry.at) if begins and entry.at is not None else None
    return {
        "key": key,
        "take": found.take.id,
        "slate": found.take.body.slate,
        "performer": found.take.body.performer,
        "circled": found.take.body.circled,
        "part": found.part,
        "names": [s.name for s in found.sources],
        "kinds": [s.kind for s in found.sources],
        "seconds": float(found.seconds),
        "rate": format_rate(found.rate) if found.rate else "",
        "timecode": str(code) if code else "",
        "timecodeRate": format_rate(code.rate) if code else "",
        "remainder": round(code.fraction, 4) if code else 0.0,
        "noted": found.noted,
        "start": None if entry.at is None else float(entry.at),
        "at": str(at) if at else "",
        "atRemainder": round(at.fraction, 4) if at else 0.0,
        "how": entry.how,
        "confidence": entry.confidence,
        "drift": entry.drift,
        "against": entry.against,
        "picture": entry.picture and entry.picture.plain(),
        "group": entry.group,
        "apart": list(apart),
    }
