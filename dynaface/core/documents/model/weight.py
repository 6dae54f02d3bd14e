"""Weights over time as documents hold them, and the regions that they are of."""

from collections.abc import Iterable
from functools import cached_property
from typing import Self

from pydantic import Field, model_validator

from dynaface.core import checks
from dynaface.core.curves.keys import keys_of_table
from dynaface.core.documents.model.record import Key, Part
from dynaface.core.documents.model.take import PlainKey, WeightedKey
from dynaface.core.errors import InputError
from dynaface.core.layers.layer import CAPTURED
from dynaface.core.layers.weight import Weight
from dynaface.core.shapes.regions import FACE


def check_regions(named: Iterable[str]) -> None:
    """Raises InputError for a name that is no region of the face."""
    for region in named:
        if region not in FACE:
            raise InputError(f"there is no region {region!r:.80}", hint=f"Regions are {', '.join(FACE)}")


def check_captured(named: Iterable[str]) -> None:
    """Raises InputError for a name of nothing that has a weight of its own in a capture."""
    for part in named:
        if part not in CAPTURED:
            raise InputError(f"a capture has no part {part!r:.80}", hint=f"Its parts are {', '.join(CAPTURED)}")


def check_share(name: str, weight: "PlainWeight") -> None:
    """Raises InputError where a weight is more than all."""
    for value in (weight.value, *(k.value for k in weight.weight.keys)):
        checks.within(name, value, 0, 1)


class PlainWeight(Part):
    """A weight over time: its keys by id, or one value where there are none."""

    value: float = Field(default=1.0, ge=0, le=1.5)
    keys: dict[Key, PlainKey | WeightedKey] = {}

    @cached_property
    def weight(self) -> Weight:
        """The weight; raises InputError."""
        return Weight(self.value, keys_of_table(self.keys, "weight"))

    @model_validator(mode="after")
    def _sound(self) -> Self:
        _ = self.weight
        return self
