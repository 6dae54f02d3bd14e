"""Matches that are kept by name: found again by both skeletons, copied to other productions, written to files and read from them."""

from collections.abc import Mapping
from typing import Any

from dynaface.core.documents.model.join import JoinBody
from dynaface.core.documents.model.match import MatchBody
from dynaface.core.documents.model.record import parse
from dynaface.core.documents.model.take import TakeBody
from dynaface.core.errors import InputError, said_of
from dynaface.core.match.known import bare, skeleton_mark
from dynaface.core.match.propose import propose_match
from dynaface.core.records.records import Document
from dynaface.formats.match_file import MatchFile, read_match, write_match
from dynaface.services.edit_document import change_document
from dynaface.services.match.matched_part import FIELDS, MatchedPart, matched_part
from dynaface.services.media.uploaded import uploaded
from dynaface.services.take.open_take import open_take
from dynaface.services.take.prepare_take import prepare_take
from dynaface.services.work import Work, add_document, allow, document_for

CARRIED = ("name", "matches", "turns", "rest", "chains")
NOTHING: dict[str, Any] = {"matches": {}, "turns": {}, "calibration": None, "chains": ""}
"""What a take says of a match where it says nothing."""


def list_matches(work: Work, production: str) -> list[Document[MatchBody]]:
    """All matches that are kept in a production, oldest first."""
    with work.store.snapshot() as unit:
        allow(unit, production, work.person)
        return [m for m in unit.documents.of_kind(production, MatchBody) if not m.body.archived]


def keep_match(work: Work, take: str, name: str, part: str = "body") -> Document[MatchBody]:
    """Keeps how a take's body, or its hands, and its character are matched, for every take with these skeletons; what was said in this take
    alone is then said by the match.
    """
    open_take(work, take)
    prepared = prepare_take(work, take)
    body = _as_kept(matched_part(prepared, part), name)
    kept = _put(work, prepared.take.production, body)
    join = prepared.snapshot.documents.join
    plain = join.body.plain()
    own = [{"path": f, "value": NOTHING[what]} for what, f in FIELDS[part].items() if plain[f] != NOTHING[what]]
    if own:
        change_document(work, join.id, JoinBody, join.version, f"keep the match {body.name}"[:120], own)
    return kept


def _as_kept(part: MatchedPart, name: str) -> MatchBody:
    source, target, settings = part.source, part.target, part.settings
    carried = part.carried
    return parse(
        MatchBody,
        {
            "name": name.strip(),
            "body": skeleton_mark(source),
            "character": skeleton_mark(target),
            "matches": {bare(n): bare(carried.matches.get(n, "")) for n in target.names},
            "turns": {bare(n): list(t) for n, t in settings.turns.items()},
            "rest": {bare(n): q.tolist() for n, q in zip(source.names, source.rest, strict=True)} if part.posed else {},
            "chains": settings.chain_way,
        },
        "the match",
    )


def _put(work: Work, production: str, body: MatchBody) -> Document[MatchBody]:
    """A match in a production, in place of the one that it has of these skeletons."""
    with work.store.unit() as unit:
        allow(unit, production, work.person)
        found = unit.documents.by_key(production, MatchBody, body.key) or add_document(unit, production, body, body.key)
    plain = body.plain()
    changes = [{"path": field, "value": plain[field]} for field in (*CARRIED, "archived")]
    return change_document(work, found.id, MatchBody, found.version, f"match {body.name}"[:120], changes)


def copy_match(work: Work, match: str, production: str) -> Document[MatchBody]:
    """A match in another production as well."""
    with work.store.unit() as unit:
        found = document_for(work, unit, match, MatchBody)
        if found.production == production:
            raise InputError("this match is of that production already", hint="Choose another production")
    return _put(work, production, found.body)


def export_match(work: Work, take: str, part: str = "body") -> tuple[str, bytes]:
    """(file name, bytes) of how a take's body, or its hands, and its character are matched."""
    prepared = prepare_take(work, take)
    one = matched_part(prepared, part)
    carried, sure = one.carried, propose_match(one.source, one.target, one.settings.chain_way)
    matches = {n: carried.matches.get(n, "") for n in one.target.names}
    file = MatchFile(matches, one.settings.turns, sure.sure_of(matches))
    name = one.kept.body.name if one.kept else prepared.take.body.slate
    return f"{''.join(c if c.isalnum() else '_' for c in name).strip('_').lower()}_match.json", write_match(file)


def import_match(work: Work, take: str, given: Mapping[str, Any], part: str = "body") -> Document[JoinBody]:
    """An uploaded match as this take's own, of its body or its hands. Raises InputError where it names joints that are not there."""
    with work.store.unit() as unit:
        production = document_for(work, unit, take, TakeBody).production
    open_take(work, take)
    prepared = prepare_take(work, take)
    one = matched_part(prepared, part)
    with said_of(given["name"]):
        file = read_match(uploaded(work, production, given["media"]))
        for ours, theirs in file.matches.items():
            one.target.index(ours)
            if theirs:
                one.source.index(theirs)
        for ours in file.turns:
            one.target.index(ours)
    join = prepared.snapshot.documents.join
    changes = [
        {"path": FIELDS[part]["matches"], "value": dict(file.matches)},
        {"path": FIELDS[part]["turns"], "value": {n: list(t) for n, t in file.turns.items()}},
    ]
    return change_document(work, join.id, JoinBody, join.version, f"match of {given['name']}"[:120], changes)
