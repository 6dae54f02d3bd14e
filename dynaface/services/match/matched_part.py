"""One of a take's skeletons, that of its body or of its hands, with the character's and how they are matched."""

from dataclasses import dataclass
from functools import cached_property

from dynaface.core.body.skeleton import Motion, Skeleton
from dynaface.core.documents.model.match import MatchBody
from dynaface.core.errors import InputError
from dynaface.core.match.match_settings import MatchSettings, matching_by, rest_of
from dynaface.core.match.retarget import Matching
from dynaface.core.records.records import Document
from dynaface.services.take.prepare_take import PreparedTake

FIELDS = {
    "body": {"matches": "matches", "turns": "turns", "calibration": "calibration", "chains": "chains"},
    "hands": {"matches": "handsMatches", "turns": "handsTurns"},
}
"""Fields of a join in which a take says how a part is matched, by what they say."""


@dataclass(frozen=True)
class MatchedPart:
    """motion: of the part; source: its skeleton in the pose that counts as its rest; target: the character's; settings: on top of the match
    that is kept; own: what the take says itself.
    """

    name: str
    motion: Motion
    source: Skeleton
    target: Skeleton
    settings: MatchSettings
    own: MatchSettings
    kept: Document[MatchBody] | None

    @cached_property
    def carried(self) -> Matching:
        """By what the one is carried onto the other."""
        return matching_by(self.source, self.target, self.settings)

    @property
    def posed(self) -> bool:
        """Whether another pose than that of the file counts as rest."""
        return self.settings.calibration is not None or bool(self.settings.rest)


def matched_part(prepared: PreparedTake, part: str) -> MatchedPart:
    """A part of `FIELDS`; raises InputError where it or the character's skeleton is missing."""
    snapshot = prepared.snapshot
    motion = snapshot.moving.get(part)
    if motion is None:
        missing = {"body": "this take has no body", "hands": "this take has no hands of their own"}
        raise InputError(missing[part], hint="Bring a recording of it in first")
    character = snapshot.character
    if character is None or character.skeleton is None:
        raise InputError("the take's character has no joints", hint="Choose a character that is skinned to joints")
    join, own = snapshot.join, snapshot.documents.join.body.settings
    settings, said = (join.match, own.match) if part == "body" else (join.hands_match, own.hands_match)
    source = rest_of(motion, settings)
    return MatchedPart(part, motion, source, character.skeleton, settings, said, snapshot.kept_match(part))
