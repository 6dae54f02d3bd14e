"""The document of a match: which joint of a character is which of a kind of body, kept by name and found again by both skeletons."""

from dataclasses import replace
from functools import cached_property
from typing import Annotated, ClassVar, Literal, Self

from pydantic import Field, model_validator

from dynaface.core.body.skeleton import Skeleton
from dynaface.core.documents.model.record import Body, Key, Name
from dynaface.core.match.anatomy import anatomy_of
from dynaface.core.match.known import full_names, skeleton_mark
from dynaface.core.match.match_settings import Degrees, MatchSettings
from dynaface.core.perform.join_settings import parse_turns

Mark = Annotated[str, Field(pattern=r"^[0-9a-f]{16}$")]
Turn = Annotated[tuple[float, float, float], Field(strict=False)]
Rotation = Annotated[tuple[float, float, float, float], Field(strict=False)]


class MatchBody(Body):
    """body, character: marks of both skeletons; matches: joint of the character -> joint of the body, "" for one that is left alone; turns:
    joint of the character -> degrees by which its rest is corrected; rest: joint of the body -> rotation in the pose that counts as its
    rest, empty for that of its file; chains: what spine and neck do where one has more joints. Joints are named without what stands before a colon.
    """

    kind: ClassVar[str] = "match"
    fixed: ClassVar[frozenset[str]] = frozenset({"schema", "body", "character"})

    schema_number: Literal[1] = Field(default=1, alias="schema")
    name: Name
    body: Mark
    character: Mark
    matches: dict[Key, str] = {}
    turns: dict[Key, Turn] = {}
    rest: dict[Key, Rotation] = {}
    chains: Literal["share", "last"] = "share"

    @model_validator(mode="after")
    def _sound(self) -> Self:
        _ = self.degrees
        return self

    @cached_property
    def degrees(self) -> dict[str, Degrees]:
        """The turns; raises InputError."""
        return parse_turns(self.turns)

    @property
    def key(self) -> str:
        """What makes a match the only one of its two skeletons."""
        return match_key(self.body, self.character)

    def under(self, settings: MatchSettings, body: Skeleton, character: Skeleton) -> MatchSettings:
        """Settings of a take on top of this match; joints that either skeleton does not have are passed over, and those of spine and neck
        where the take wants these otherwise.
        """
        theirs, ours = full_names(body), full_names(character)
        matches = {ours[t]: theirs.get(s, "") for t, s in self.matches.items() if t in ours and (not s or s in theirs)}
        if settings.chains not in ("", self.chains):
            for joint in anatomy_of(character).chained:
                matches.pop(character.names[joint], None)
        return replace(
            settings,
            matches={**matches, **settings.matches},
            turns={**{ours[t]: d for t, d in self.degrees.items() if t in ours}, **settings.turns},
            rest={theirs[s]: q for s, q in self.rest.items() if s in theirs},
            chains=settings.chains or self.chains,
        )


def match_key(body: str, character: str) -> str:
    """The key of the match of two skeletons, by their marks."""
    return f"{body}|{character}"


def match_key_of(body: Skeleton, character: Skeleton) -> str:
    """The key of the match of two skeletons."""
    return match_key(skeleton_mark(body), skeleton_mark(character))
