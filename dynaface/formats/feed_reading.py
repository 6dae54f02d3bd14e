"""How the signals of a sender are read: the recipe that tables have, found from what arrives, and rows of channels by it."""

from collections.abc import Mapping, Sequence
from dataclasses import replace

import numpy as np

from dynaface.core.curves.channels import Floats
from dynaface.core.shapes.standard import ANGLES, PLACE_OF, SHAPES
from dynaface.formats.table.cells import Cells
from dynaface.formats.table.recipe import Recipe
from dynaface.formats.table.understand import propose

_SHAPES = frozenset(SHAPES)


def learn(rows: Sequence[Mapping[str, float]], ours: bool = False) -> Recipe:
    """The best guess at signals from what was heard of them, as a table of the same names is understood; each part can be corrected. ours:
    signals are channels in their units, and nothing is guessed.
    """
    names = tuple(dict.fromkeys(name for row in rows for name in row))
    if ours:
        return Recipe(columns={n: n if n in PLACE_OF else "" for n in names})
    numbers = np.array([[row.get(n, np.nan) for n in names] for row in rows], np.float64).reshape(len(rows), len(names))
    found = propose(Cells(names, numbers, {}, 1))
    # Time comes with the packet, or from when it came; a number of that name is read as nothing.
    return replace(found, time_column="", time_unit="none", timecode_column="", timecode_rate="",
                   columns={n: found.columns.get(n, "") for n in names})  # fmt: skip


class SignalReader:
    """A recipe at work: signals to rows of channels."""

    def __init__(self, recipe: Recipe) -> None:
        self._places: dict[str, tuple[int, float]] = {}
        for name, channel in recipe.columns.items():
            if not channel:
                continue
            factor = 0.01 if recipe.percent and channel in _SHAPES else 1.0
            if recipe.radians and channel in ANGLES:
                factor = float(np.degrees(1.0))
            self._places[name] = PLACE_OF[channel], -factor if channel in recipe.flipped else factor

    def read_into(self, row: Floats, values: Mapping[str, float]) -> None:
        """Puts values by signal into a row (channels,) in the order of CHANNELS; those that no recipe names are left out."""
        for name, value in values.items():
            place = self._places.get(name)
            if place is not None:
                row[place[0]] = value * place[1]
