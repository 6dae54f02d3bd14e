"""What a form of handover is: one file in `formats/handovers/` each, found by the registry."""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from fractions import Fraction
from typing import Any

import numpy as np
from numpy.typing import NDArray

from dynaface.core.handover.delivery import Delivery
from dynaface.core.handover.options import HandoverOptions
from dynaface.core.parameters import Parameter, complete
from dynaface.core.returns.brought import Brought

SAMPLES = 20
TOLERANCE = 1e-4
APART, ONE = "a file each", "all in one file"  # where several characters are handed over
Files = Mapping[str, bytes]
Settings = Mapping[str, Any]
Tell = Callable[[float, str], None]
"""(part that is done, 0..1, what is being done); may raise CancelledError."""
Ints = NDArray[np.int_]


@dataclass(frozen=True)
class Check:
    """What was looked at in a file that was made; ok: None where it says something that is neither right nor wrong."""

    what: str
    ok: bool | None
    found: str


@dataclass(frozen=True)
class HandoverForm:
    """One form in which work is handed over.

    name: its key in settings; label: for people; ending: of its files, with the dot; about: a sentence; lacks: a delivery -> what it would
    need and does not have, "" for nothing; write: (delivery, settings, tell) -> files by name; check: reads the files back and compares them with
    the delivery; node: the program that runs the validator of glTF, "" for none; parameters: its settings; endings: those of its files with the
    settings that give them, where there are several; rank: its place in lists; wants: what is read for it
    beside the performances ("sound", "edit", "film"); bring: reads a file that comes back (its bytes, the rate that it was handed over at) into
    characters by name, "" for the only one; None where nothing can come back.
    """

    name: str
    label: str
    ending: str
    about: str
    lacks: Callable[[Delivery], str]
    write: Callable[[Delivery, Settings, Tell], dict[str, bytes]]
    check: Callable[[Files, Delivery, Settings, str], list[Check]]
    parameters: Sequence[Parameter] = ()
    endings: Mapping[str, Settings] = field(default_factory=dict)
    rank: int = 100
    wants: tuple[str, ...] = ()
    bring: Callable[[bytes, Fraction], dict[str, Brought]] | None = None

    @property
    def written(self) -> tuple[str, ...]:
        """All endings of its files."""
        return tuple(self.endings) or (self.ending,)

    def by_ending(self, ending: str) -> dict[str, Any]:
        """The settings that give files of one of its endings."""
        return dict(self.endings.get(ending, {}))

    def complete(self, given: Mapping[str, Any]) -> dict[str, Any]:
        """All its settings, checked; raises InputError."""
        return complete(self.parameters, given)

    def describe(self) -> dict[str, Any]:
        """As plain data for a form in the page."""
        return {
            "name": self.name, "label": self.label, "ending": self.ending, "about": self.about,
            "parameters": [p.describe() for p in self.parameters],
        }  # fmt: skip


def within(tell: Tell, number: int, count: int) -> Tell:
    """Says how far one of so many parts is as a share of all of them."""
    return lambda part, message: tell((number + part) / count, message)


def nothing_lacks(delivery: Delivery) -> str:
    """For forms that need curves only."""
    return ""


def model_lacks(delivery: Delivery) -> str:
    """For forms that need a character."""
    return "" if all(f.model for f in delivery.figures) else "there is no character to hand over on"


def skeleton_lacks(delivery: Delivery) -> str:
    """For forms that need joints."""
    known = all(f.skeleton for f in delivery.figures)
    return "" if known else "the character has no skeleton, so there is no body to hand over"


def sampled_frames(count: int) -> Ints:
    """The frames, of so many, at which a baked file is compared with what the viewer is sent."""
    return np.unique(np.linspace(0, count - 1, SAMPLES).round().astype(int))


def of_file(name: str, found: Sequence[Check], several: bool) -> list[Check]:
    """Checks that say of which file they are, where there are several."""
    return [replace(c, what=f"{name}: {c.what}") for c in found] if several else list(found)


def allowed(options: HandoverOptions) -> float:
    """By how much a file that can leave keys out may differ: between those that are kept values follow lines, and turns arcs."""
    return TOLERANCE + 2 * options.tolerance


def compared(what: str, worst: float, allowed: float = TOLERANCE) -> Check:
    """The check of values that are the viewer's but for a worst difference."""
    return Check(what, worst <= allowed, f"worst difference {worst:.1e}")
