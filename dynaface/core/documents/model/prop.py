"""Props in the documents of a shot: where each stands, and whose hands hold it when."""

from functools import cached_property
from typing import Annotated, Literal, Self

from pydantic import Field, model_validator

from dynaface.core.documents.model.record import Identity, Key, Name, Part
from dynaface.core.errors import InputError
from dynaface.core.prop.prop import Hold, PlacedProp

MAX_HOLDS = 500
FARTHEST = 1e4  # metres
Metres = Annotated[tuple[float, float, float], Field(strict=False)]


class HoldEntry(Part):
    """A hand on a prop. role: whose; first, last: frames of the shot, both included; at: metres of the prop's own space from its origin to
    what lies in the palm; closed: how far the fingers close about it.
    """

    role: Key
    side: Literal["Left", "Right"]
    first: int = Field(ge=0, le=2_000_000)
    last: int = Field(ge=0, le=2_000_000)
    at: Metres = (0.0, 0.0, 0.0)
    closed: float = Field(default=0.8, ge=0, le=1)

    @model_validator(mode="after")
    def _sound(self) -> Self:
        if self.last < self.first:
            raise InputError(f"a hand holds from frame {self.first} to frame {self.last}")
        _near("a hand holds a prop", self.at)
        return self


class PropEntry(Part):
    """A prop in the shot: `PlacedProp` as people set it. source: its glTF; begins: whether it is in the first hand from the beginning, or is
    taken from where it stands; plays: second of the shot at which its own motion begins, None where it is not used.
    """

    name: Name
    source: Identity
    rank: float = Field(default=0.0, ge=-1e9, le=1e9)
    at: Metres = (0.0, 0.0, 0.0)
    turn: float = Field(default=0.0, ge=-360, le=360)
    size: float = Field(default=1.0, ge=0.001, le=1000)
    begins: Literal["hand", "place"] = "hand"
    hangs: bool = False
    plays: float | None = Field(default=None, ge=-3600, le=3600)
    holds: dict[Key, HoldEntry] = Field(default={}, max_length=MAX_HOLDS)

    @model_validator(mode="after")
    def _sound(self) -> Self:
        _near(f"the prop {self.name} stands", self.at)
        return self

    @cached_property
    def placed(self) -> PlacedProp:
        """The prop as it is carried."""
        holds = {key: Hold(h.role, h.side, h.first, h.last, h.at, h.closed) for key, h in self.holds.items()}
        return PlacedProp(self.at, self.turn, self.size, self.plays, self.begins == "hand", self.hangs, holds)


def _near(what: str, at: tuple[float, float, float]) -> None:
    if max(map(abs, at)) > FARTHEST:
        raise InputError(f"{what} at {at}; at most {FARTHEST:g} m away")
