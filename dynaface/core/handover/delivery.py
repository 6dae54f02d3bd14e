"""What is handed over at once: characters in motion, their sound, and what lies where."""

from dataclasses import dataclass, replace
from typing import Any

from dynaface.core.body.skeleton import Skeleton
from dynaface.core.handover.edit_list import EditList
from dynaface.core.handover.options import HandoverOptions
from dynaface.core.markers.take import MarkerTake
from dynaface.core.perform.perform import Performance
from dynaface.core.sound.sound import Sound
from dynaface.core.track.footage import Footage

Vector = tuple[float, float, float]


@dataclass(frozen=True)
class Figure:
    """One performance. name: of its files, without ending; model: the glTF binary of its character, None without one; at: metres, where it stands;
    turn: degrees to its left.
    """

    name: str
    performance: Performance
    model: bytes | None = None
    skeleton: Skeleton | None = None
    at: Vector = (0.0, 0.0, 0.0)
    turn: float = 0.0

    @property
    def alone(self) -> "Figure":
        """In a file of its own it stands where it stands by itself."""
        return replace(self, at=(0.0, 0.0, 0.0), turn=0.0)


@dataclass(frozen=True)
class Voice:
    """The sound that goes along. file: its name; offset: seconds after the first frame at which it begins; sound: None where only its name is
    known.
    """

    file: str
    offset: float = 0.0
    sound: Sound | None = None


@dataclass(frozen=True)
class Film:
    """Footage of what is handed over. offset: seconds of it at the first frame."""

    footage: Footage
    offset: float = 0.0


@dataclass(frozen=True)
class Marked:
    """The markers of what is handed over. offset: seconds of them at the first frame."""

    take: MarkerTake
    offset: float = 0.0


@dataclass(frozen=True)
class Delivery:
    """name: of files that are of all figures; figures: at least one, as their options ask for them; label: what people call it."""

    name: str
    figures: tuple[Figure, ...]
    options: HandoverOptions
    voice: Voice | None = None
    edit: EditList | None = None
    film: Film | None = None
    marked: Marked | None = None
    label: str = ""

    @property
    def first(self) -> Figure:
        """The figure whose rate, length and count are those of all."""
        return self.figures[0]

    @property
    def sounding(self) -> bool:
        """Whether there is a sound that can be written."""
        return self.voice is not None and self.voice.sound is not None

    @property
    def voice_noted(self) -> dict[str, Any] | None:
        """The sound's name and offset, as files note them."""
        return {"file": self.voice.file, "offsetSeconds": self.voice.offset} if self.voice else None
