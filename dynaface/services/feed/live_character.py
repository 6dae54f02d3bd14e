"""The character that is moved while live, with the cast sheet of its performer."""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from dynaface.core.body.skeleton import Skeleton
from dynaface.core.cast.character import Character
from dynaface.core.cast.sheet import CastSheet
from dynaface.core.curves.channels import Floats
from dynaface.core.documents.model.cast import CastBody
from dynaface.core.documents.model.character import CharacterBody
from dynaface.core.documents.model.match import MatchBody, match_key_of
from dynaface.core.match.match_settings import MatchSettings
from dynaface.core.perform.follow_body import BodyFollower
from dynaface.core.perform.join import RetargetedBody
from dynaface.core.perform.one_frame import OneFrame, one_frame
from dynaface.core.records.records import Document
from dynaface.services.load_source import load_character
from dynaface.services.take.snapshot import cast_key, matches_of
from dynaface.services.work import Work, allow, source_within


@dataclass(frozen=True)
class LiveCharacter:
    """id: of the character's document; source: of its file; sheet: of the performer who moves it; matches: those of the production, by key."""

    id: str
    source: str
    rig: Character
    sheet: CastSheet
    matches: Mapping[str, Document[MatchBody]]

    def frame(self, names: tuple[str, ...], row: Floats, body: RetargetedBody | None = None) -> OneFrame:
        """A row (channels,) on it, with a frame of a body."""
        return one_frame(names, row, self.rig, self.sheet, body)

    def follower(self, source: Skeleton) -> BodyFollower | None:
        """What carries a body onto it, by the match that is kept of both skeletons; None for a character without one."""
        target = self.rig.skeleton
        if target is None:
            return None
        kept = self.matches.get(match_key_of(source, target))
        return BodyFollower(
            source, target, kept.body.under(MatchSettings(), source, target) if kept else MatchSettings()
        )

    def described(self, frame: OneFrame) -> dict[str, Any]:
        """What stays the same from frame to frame, for the page."""
        return {
            "source": self.source,
            "targets": list(frame.targets),
            "still": [list(pair) for pair in frame.still],
            "joints": list(frame.joints),
            "shifted": list(frame.shifts),
        }


def live_character(work: Work, production: str, performer: str = "", wanted: str | None = None) -> LiveCharacter | None:
    """The character that is wanted, by its id, or the production's first; None where there is none."""
    with work.store.unit() as unit:
        allow(unit, production, work.person)
        present = [c for c in unit.documents.of_kind(production, CharacterBody) if not c.body.archived]
        chosen = next((c for c in present if c.id == wanted), present[0] if present else None)
        if chosen is None:
            return None
        source = source_within(unit, production, chosen.body.source, "character")
        sheet = unit.documents.by_key(production, CastBody, cast_key(performer, chosen.id))
        matches = matches_of(unit, production)
    rig = load_character(work, source)
    return LiveCharacter(chosen.id, source.id, rig, sheet.body.sheet if sheet else CastSheet(), matches)
