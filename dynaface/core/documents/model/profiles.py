"""The blink profiles of a production: its own copies of those that come with the product, and further ones."""

from functools import cached_property
from typing import Annotated, ClassVar, Literal, Self

from pydantic import Field, model_validator

from dynaface.core.documents.model.record import Body, Key, Part
from dynaface.core.layers.profile import BUILT_IN, MOST, Points, Profile

MAX_PROFILES = 60
PlainPoints = Annotated[
    tuple[Annotated[tuple[float, float], Field(strict=False)], ...], Field(strict=False, max_length=MOST)
]


class ProfileEntry(Part):
    """The fields of `Profile` (core/layers/profile.py)."""

    upper: PlainPoints
    lower: PlainPoints

    @cached_property
    def profile(self) -> Profile:
        """The profile; raises InputError."""
        return Profile(tuple(self.upper), tuple(self.lower))

    @model_validator(mode="after")
    def _sound(self) -> Self:
        _ = self.profile
        return self


class ProfilesBody(Body):
    """All blink profiles of a production by name; there is one of these documents in each."""

    kind: ClassVar[str] = "profiles"

    schema_number: Literal[1] = Field(default=1, alias="schema")
    profiles: dict[Key, ProfileEntry] = Field(max_length=MAX_PROFILES)

    @property
    def by_name(self) -> dict[str, Profile]:
        """The profiles; those that come with the product are always among them."""
        return {**BUILT_IN, **{name: entry.profile for name, entry in self.profiles.items()}}


def fresh_profiles() -> dict[str, dict[str, Points]]:
    """Copies of those that come with the product, as plain data."""
    return {name: {"upper": p.upper, "lower": p.lower} for name, p in BUILT_IN.items()}
