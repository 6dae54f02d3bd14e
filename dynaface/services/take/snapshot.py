"""Everything that evaluating a take needs, read at one moment: nothing of an evaluation asks the database after it."""

from collections.abc import Mapping
from dataclasses import dataclass, replace
from functools import cached_property
from typing import TypeVar, cast

from dynaface.core.body.skeleton import Motion, Skeleton
from dynaface.core.cast.character import Character
from dynaface.core.curves.channels import Recording
from dynaface.core.documents.model.cast import CastBody, cast_body
from dynaface.core.documents.model.character import CharacterBody
from dynaface.core.documents.model.join import JoinBody
from dynaface.core.documents.model.match import MatchBody, match_key_of
from dynaface.core.documents.model.record import Body
from dynaface.core.documents.model.take import TakeBody
from dynaface.core.errors import InputError
from dynaface.core.match.match_settings import MatchSettings
from dynaface.core.measures.fitted import fitted
from dynaface.core.measures.measures import Measures
from dynaface.core.perform.join_settings import JoinSettings
from dynaface.core.records.records import Document, Source
from dynaface.services.edit_document import Wanted, edited
from dynaface.services.load_source import load_character, load_motion, load_recording
from dynaface.services.take.performer_measures import measures_of
from dynaface.services.work import Work, document_for, source_within
from dynaface.store.unit import Unit

B = TypeVar("B", bound=Body)


@dataclass(frozen=True)
class Wish:
    """What is only wished for: changes of the take, its cast sheet and its join that are not stored; another character; other
    curves of the production; joints: of the character whose curves are asked for.
    """

    take: Wanted = ()
    cast: Wanted = ()
    join: Wanted = ()
    character: str | None = None
    curves: str | None = None
    joints: tuple[str, ...] = ()

    @property
    def only_contacts(self) -> bool:
        """Whether nothing but contacts of the body is wished to be otherwise."""
        if self.take or self.cast or self.character or self.curves or not self.join:
            return False
        return all(str(change.get("path", "")).startswith("contacts/") for change in self.join)


@dataclass(frozen=True)
class Documents:
    """The documents of a take and the sources that they name. sources: by kind; rig: of the character. A cast sheet or join
    that is not stored yet has no id. matches: those of the production, by key; measures: of the performer.
    """

    take: Document[TakeBody]
    sources: dict[str, Source]
    character: Document[CharacterBody] | None
    rig: Source | None
    cast: Document[CastBody] | None
    join: Document[JoinBody]
    matches: Mapping[str, Document[MatchBody]]
    measures: Measures


@dataclass(frozen=True)
class TakeSnapshot:
    """Documents of a take as they are, or are wished to be, with the numbers that they name; joints: of the character whose curves are asked
    for; before: as it is stored, where nothing but contacts of its body is wished to be otherwise.
    """

    documents: Documents
    recording: Recording
    character: Character | None
    body: Motion | None
    hands: Motion | None
    joints: tuple[str, ...] = ()
    before: "TakeSnapshot | None" = None

    @property
    def take(self) -> Document[TakeBody]:
        """The take."""
        return self.documents.take

    @property
    def moving(self) -> dict[str, Motion]:
        """Body and hands, those that there are."""
        return {k: m for k, m in (("body", self.body), ("hands", self.hands)) if m is not None}

    def kept_match(self, part: str) -> Document[MatchBody] | None:
        """The match that is kept of the skeletons of a part, body or hands, and the character."""
        rig = self.character.skeleton if self.character else None
        return _kept(self.documents.matches, self.moving.get(part), rig)

    @cached_property
    def join(self) -> JoinSettings:
        """How body and character are joined: as the take says, on top of the match that is kept of both skeletons."""
        rig = self.character.skeleton if self.character else None
        return joined(self.documents.join.body, self.moving, rig, self.documents.matches)

    @property
    def sound(self) -> Source | None:
        """The take's sound."""
        return self.documents.sources.get("sound")


def joined(
    own: JoinBody, moving: Mapping[str, Motion], rig: Skeleton | None, matches: Mapping[str, Document[MatchBody]]
) -> JoinSettings:
    """The settings of a join on top of the matches that are kept of its skeletons; moving: body and hands; matches: by key."""

    def under(part: str, said: MatchSettings) -> MatchSettings:
        kept = _kept(matches, moving.get(part), rig)
        return kept.body.under(said, moving[part].skeleton, rig) if kept and rig else said

    settings = own.settings
    return replace(settings, match=under("body", settings.match), hands_match=under("hands", settings.hands_match))


def _kept(
    matches: Mapping[str, Document[MatchBody]], motion: Motion | None, rig: Skeleton | None
) -> Document[MatchBody] | None:
    """The match, of those by key, of the skeletons of a motion and a character."""
    return matches.get(match_key_of(motion.skeleton, rig)) if motion and rig else None


def matches_of(unit: Unit, production: str) -> dict[str, Document[MatchBody]]:
    """The matches of a production that count, by key."""
    return {m.key: m for m in unit.documents.of_kind(production, MatchBody) if not m.body.archived}


def read_documents(work: Work, unit: Unit, take: str) -> Documents:
    """The documents of a take; nothing is written. A source that is not there any more is left out."""
    found = document_for(work, unit, take, TakeBody)
    held = found.body.sources.held
    sources = {
        s.kind: s for s in unit.sources.many(list(held.values()))
        if s.production == found.production and held.get(s.kind) == s.id
    }  # fmt: skip
    character = _character(unit, found)
    rig = source_within(unit, found.production, character.body.source, "character") if character else None
    cast = cast_of(unit, found, character) if character else None
    matches = matches_of(unit, found.production)
    measures = measures_of(unit, found.production, found.body.performer)
    return Documents(found, sources, character, rig, cast, join_of(unit, found), matches, measures)


def _character(unit: Unit, take: Document[TakeBody]) -> Document[CharacterBody] | None:
    if take.body.character:
        found = unit.documents.get(take.body.character)
        if found is not None and found.production == take.production and isinstance(found.body, CharacterBody):
            return cast(Document[CharacterBody], found)
    return next((c for c in unit.documents.of_kind(take.production, CharacterBody) if not c.body.archived), None)


def cast_key(performer: str, character: str) -> str:
    """What makes a sheet the only one of its performer and character."""
    return f"{performer}|{character}"


def cast_of(unit: Unit, take: Document[TakeBody], character: Document[CharacterBody]) -> Document[CastBody]:
    """The cast sheet of the take's performer and the character, or the one that they would begin with."""
    key = cast_key(take.body.performer, character.id)
    found = unit.documents.by_key(take.production, CastBody, key)
    body = cast_body(take.body.performer, character.id)
    return found or Document("", take.production, CastBody.kind, key, 0, body, take.created)


def join_of(unit: Unit, take: Document[TakeBody]) -> Document[JoinBody]:
    """The join of the take, or the one that it would begin with."""
    found = unit.documents.by_key(take.production, JoinBody, take.id)
    return found or Document("", take.production, JoinBody.kind, take.id, 0, JoinBody(take=take.id), take.created)


def take_snapshot(work: Work, take: str, wish: Wish | None = None) -> TakeSnapshot:
    """Reads a take for evaluating; raises InputError when it has no curves, or where the wish cannot be met."""
    wish = wish or Wish()
    with work.store.snapshot() as unit:
        found = read_documents(work, unit, take)
        if wish.character is not None:
            found = _on_character(work, unit, found, wish.character)
        curves = found.sources.get("curves")
        if wish.curves is not None:
            curves = source_within(unit, found.take.production, wish.curves, "curves")
        if curves is None:
            raise InputError("this take has no curves", hint="Bring in a curve table at the Gather desk")
        recording = load_recording(work, unit, curves)
    stored = found.join
    found = replace(
        found,
        take=_wished(found.take, wish.take),
        cast=_wished(found.cast, wish.cast) if found.cast else None,
        join=_wished(found.join, wish.join),
        sources={**found.sources, "curves": curves},
    )
    character = load_character(work, found.rig) if found.rig else None
    moving = {k: load_motion(work, found.sources[k]) for k in ("body", "hands") if k in found.sources}
    body = fitted(moving["body"], found.measures) if "body" in moving else None
    made = TakeSnapshot(found, recording, character, body, moving.get("hands"), wish.joints)
    if wish.only_contacts:
        return replace(made, before=replace(made, documents=replace(found, join=stored)))
    return made


def _on_character(work: Work, unit: Unit, found: Documents, character: str) -> Documents:
    other = document_for(work, unit, character, CharacterBody)
    if other.production != found.take.production:
        raise InputError("this character belongs to another production", hint="Bring it into this one")
    rig = source_within(unit, other.production, other.body.source, "character")
    return replace(found, character=other, rig=rig, cast=cast_of(unit, found.take, other))


def _wished(document: Document[B], wanted: Wanted) -> Document[B]:
    return replace(document, body=edited(document.body, wanted)) if wanted else document
