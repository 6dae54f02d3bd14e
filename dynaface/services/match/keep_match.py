"""Matches that are kept by name: found again by both skeletons, copied to other productions, written to files and read from them."""

from collections.abc import Mapping
from typing import Any

from dynaface.core.documents.model.join import JoinBody
from dynaface.core.documents.model.match import MatchBody
from dynaface.core.documents.model.record import parse
from dynaface.core.documents.model.take import TakeBody
from dynaface.core.errors import InputError
from dynaface.core.match.known import bare, skeleton_mark
from dynaface.core.match.propose import propose_match
from dynaface.core.perform.join import matching
from dynaface.core.records.records import Document
from dynaface.formats.match_file import MatchFile, read_match, write_match
from dynaface.services.edit_document import change_document
from dynaface.services.match.report_match import skeletons_of
from dynaface.services.media.uploaded import uploaded
from dynaface.services.take.open_take import open_take
from dynaface.services.take.prepare_take import PreparedTake, prepare_take
from dynaface.services.work import Work, add_document, allow, document_for

CARRIED = ("name", "matches", "turns", "rest")


def list_matches(work: Work, production: str) -> list[Document[MatchBody]]:
    """All matches that are kept in a production, oldest first."""
    with work.store.snapshot() as unit:
        allow(unit, production, work.person)
        return [m for m in unit.documents.of_kind(production, MatchBody) if not m.body.archived]


def keep_match(work: Work, take: str, name: str) -> Document[MatchBody]:
    """Keeps how a take's body and character are matched, for every take with these skeletons; what was said in this take alone is then
    said by the match.
    """
    open_take(work, take)
    prepared = prepare_take(work, take)
    body = _as_kept(prepared, name)
    kept = _put(work, prepared.take.production, body)
    join = prepared.snapshot.documents.join
    own: list[dict[str, Any]] = [
        {"path": field, "value": {}} for field in ("matches", "turns") if getattr(join.body, field)
    ]
    if join.body.calibration is not None:
        own.append({"path": "calibration", "value": None})
    if own:
        change_document(work, join.id, JoinBody, join.version, f"keep the match {body.name}"[:120], own)
    return kept


def _as_kept(prepared: PreparedTake, name: str) -> MatchBody:
    source, target = skeletons_of(prepared)
    settings = prepared.snapshot.join
    carried = matching(source, target, settings)
    posed = settings.calibration is not None or bool(settings.rest)
    return parse(
        MatchBody,
        {
            "name": name.strip(),
            "body": skeleton_mark(source),
            "character": skeleton_mark(target),
            "matches": {bare(n): bare(carried.matches.get(n, "")) for n in target.names},
            "turns": {bare(n): list(t) for n, t in settings.turns.items()},
            "rest": {bare(n): q.tolist() for n, q in zip(source.names, source.rest, strict=True)} if posed else {},
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


def export_match(work: Work, take: str) -> tuple[str, bytes]:
    """(file name, bytes) of how a take's body and character are matched."""
    prepared = prepare_take(work, take)
    source, target = skeletons_of(prepared)
    settings = prepared.snapshot.join
    carried, sure = matching(source, target, settings), propose_match(source, target)
    matches = {n: carried.matches.get(n, "") for n in target.names}
    file = MatchFile(matches, settings.turns, sure.sure_of(matches))
    kept = prepared.snapshot.match
    name = kept.body.name if kept else prepared.take.body.slate
    return f"{''.join(c if c.isalnum() else '_' for c in name).strip('_').lower()}_match.json", write_match(file)


def import_match(work: Work, take: str, given: Mapping[str, Any]) -> Document[JoinBody]:
    """An uploaded match as this take's own. Raises InputError where it names joints that are not there."""
    with work.store.unit() as unit:
        production = document_for(work, unit, take, TakeBody).production
    open_take(work, take)
    prepared = prepare_take(work, take)
    source, target = skeletons_of(prepared)
    try:
        file = read_match(uploaded(work, production, given["media"]))
        for ours, theirs in file.matches.items():
            target.index(ours)
            if theirs:
                source.index(theirs)
        for ours in file.turns:
            target.index(ours)
    except InputError as error:
        raise InputError(f"{given['name']}: {error.message}", where=error.where, hint=error.hint) from None
    join = prepared.snapshot.documents.join
    changes = [
        {"path": "matches", "value": dict(file.matches)},
        {"path": "turns", "value": {n: list(t) for n, t in file.turns.items()}},
    ]
    return change_document(work, join.id, JoinBody, join.version, f"match of {given['name']}"[:120], changes)
