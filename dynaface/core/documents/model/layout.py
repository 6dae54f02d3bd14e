"""The marker layout document: which marker sits on which place of the face, once for a performer and day."""

from functools import cached_property
from typing import Any, ClassVar, Literal, Self

from pydantic import Field, model_validator

from dynaface.core.documents.model.drives import Drives, plain_drives
from dynaface.core.documents.model.record import Body, Frame, Frames, Identity, Key, Marked, Name, Reference, Words
from dynaface.core.markers.layout import Layout, parse_layout


class LayoutBody(Body):
    """The fields of `Layout` (core/markers/layout.py). markers: the source that the layout was made from."""

    kind: ClassVar[str] = "layout"
    fixed: ClassVar[frozenset[str]] = frozenset({"schema", "markers"})

    schema_number: Literal[2] = Field(default=2, alias="schema")
    name: Name
    performer: Words
    day: str = Field(default="", max_length=20)
    markers: Identity
    places: dict[Key, str] = {}
    neutral: Frames = (0, 0)
    samples: dict[Key, Frame] = {}
    off: Marked = {}
    drives: Drives = {}

    @cached_property
    def layout(self) -> Layout:
        """The layout; raises InputError."""
        off = [label for label, is_off in self.off.items() if is_off]
        return parse_layout({"places": self.places, "neutral": list(self.neutral), "samples": self.samples, "off": off,
                             "drives": plain_drives(self.drives)})  # fmt: skip

    @model_validator(mode="after")
    def _sound(self) -> Self:
        _ = self.layout
        return self

    def references(self) -> tuple[Reference, ...]:
        """The markers."""
        return (Reference("markers", "source", "markers", self.markers),)


def layout_fields(layout: Layout) -> dict[str, Any]:
    """A layout as the fields of its document."""
    plain = layout.describe()
    return {k: plain[k] for k in ("places", "neutral", "samples", "drives")} | {
        "off": dict.fromkeys(plain["off"], True)
    }
