"""What a maker is: a recipe in a layer that writes curves anew whenever what it depends on changes."""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from functools import cache
from typing import Any

import numpy as np

from dynaface.core import checks
from dynaface.core.curves.channels import Channels
from dynaface.core.curves.keys import Keys
from dynaface.core.curves.reduce import reduce
from dynaface.core.layers import makers
from dynaface.core.layers.around import Around
from dynaface.core.layers.weight import Amounts
from dynaface.core.parameters import Parameter, complete
from dynaface.core.registry import discover

TOLERANCE = 0.004  # of a weight, between what was made and its keys
Made = Mapping[str, Amounts]
"""channel -> (frames,) what is added to what lies beneath; channels that it leaves alone are not there."""


@dataclass(frozen=True)
class Maker:
    """One kind of maker. make: (what lies beneath it, complete parameters, what is around) -> Made; it changes none of them. needs: which
    fields of what is around it looks at.
    """

    name: str
    label: str
    help: str
    parameters: Sequence[Parameter]
    make: Callable[[Channels, Mapping[str, Any], Around], Made]
    needs: frozenset[str] = frozenset()

    def describe(self) -> dict[str, Any]:
        """As plain data for a form."""
        described = [p.describe() for p in self.parameters]
        return {"name": self.name, "label": self.label, "help": self.help, "parameters": described}


def keys_of_made(made: Made, rate: float) -> dict[str, Keys]:
    """What a maker gave as keys within TOLERANCE; rate: frames a second."""
    return {channel: reduce(curve.astype(np.float32), rate, TOLERANCE).keys for channel, curve in made.items()}


@dataclass(frozen=True)
class PlacedMaker:
    """A maker in a layer with all its parameters."""

    maker: str
    parameters: Mapping[str, Any]


@cache
def known_makers() -> dict[str, Maker]:
    """All makers by name."""
    return discover(makers, "MAKER")


def placed_maker(name: str, given: Mapping[str, Any]) -> PlacedMaker:
    """A maker with checked parameters; raises InputError."""

    kind = known_makers()[checks.one_of("maker", name, known_makers())]
    return PlacedMaker(name, complete(kind.parameters, given))
