"""The document of a layer: what it says of the performance of a role, or of the rig of its character."""

from collections.abc import Iterable, Mapping
from functools import cached_property
from typing import Any, ClassVar, Literal, Self, TypeVar

from pydantic import ConfigDict, Field, model_validator

from dynaface.core import checks
from dynaface.core.curves.keys import keys_of_table, parse_keys
from dynaface.core.documents.model.record import Body, Identity, Key, Marked, Name, Part, Reference, Words
from dynaface.core.documents.model.take import PlainKey, WeightedKey
from dynaface.core.documents.model.weight import PlainWeight, check_regions
from dynaface.core.errors import InputError
from dynaface.core.layers.layer import Layer
from dynaface.core.layers.maker import PlacedMaker, placed_maker
from dynaface.core.layers.span import Span
from dynaface.core.shapes.rig import rig_channel
from dynaface.core.shapes.standard import CHANNELS

MAX_SPANS, MAX_MAKERS, MAX_KEPT = 2000, 40, 12


class SpanEntry(Part):
    """The fields of `Span` (core/layers/span.py); frames are those of the shot. curves: the keys of each, whole: they are made elsewhere and
    come back as a piece.
    """

    first: float = Field(ge=-1e7, le=1e7)
    last: float = Field(ge=-1e7, le=1e7)
    lead_in: float = 6.0
    lead_out: float = 6.0
    offset: dict[Key, float] = {}
    strength: float = 1.0
    ease: str = "smooth"
    curves: dict[Key, list[PlainKey | WeightedKey]] = {}
    origin: float = Field(default=0.0, ge=-1e7, le=1e7)

    @classmethod
    def of(cls, span: Span) -> Self:
        """The entry that says what a span says."""
        curves = {channel: [tuple(k.plain()) for k in keys] for channel, keys in span.curves.items()}
        return cls(first=span.first, last=span.last, lead_in=span.lead_in, lead_out=span.lead_out, offset=dict(span.offset), strength=span.strength,
                   ease=span.ease, curves=curves, origin=span.origin)  # fmt: skip

    def span(self, key: str) -> Span:
        """The span; raises InputError."""
        curves = {channel: parse_keys(rows, channel) for channel, rows in self.curves.items() if rows}
        return Span(self.first, self.last, self.lead_in, self.lead_out, self.offset, self.strength, self.ease, curves, self.origin, key)  # fmt: skip


class MakerEntry(Part):
    """A maker in a layer; further fields are its own parameters."""

    model_config = ConfigDict(extra="allow")

    maker: str
    on: bool = True
    rank: float = Field(ge=-1e9, le=1e9)

    @cached_property
    def placed(self) -> PlacedMaker:
        """The maker with all its parameters; raises InputError."""
        return placed_maker(self.maker, dict(self.model_extra or {}))


class LayerFields(Part):
    """What a layer says, wherever it lies. regions: on which it acts, all where none is marked."""

    name: Name
    does: Literal["add", "replace", "scale"] = "add"
    regions: Marked = {}
    weight: PlainWeight = PlainWeight()
    mute: bool = False
    solo: bool = False
    locked: bool = False
    keys: dict[Key, dict[Key, PlainKey | WeightedKey]] = {}
    spans: dict[Key, SpanEntry] = Field(default={}, max_length=MAX_SPANS)
    makers: dict[Key, MakerEntry] = Field(default={}, max_length=MAX_MAKERS)

    @cached_property
    def layer(self) -> Layer:
        """The layer; raises InputError."""
        regions = frozenset(r for r, on in self.regions.items() if on)
        check_regions(regions)
        keys = {c: keys_of_table(_channel(c, table), c) for c, table in self.keys.items() if table}
        spans = tuple(s.span(k) for k, s in sorted(self.spans.items(), key=lambda item: (item[1].first, item[0])))
        made = sorted(self.makers.items(), key=lambda item: (item[1].rank, item[0]))
        return Layer(self.does, regions, self.weight.weight, keys, spans, tuple(m.placed for _, m in made if m.on))

    @model_validator(mode="after")
    def _sound(self) -> Self:
        _ = self.layer, [m.placed for m in self.makers.values()]
        return self

    def check_face(self) -> None:
        """Raises InputError where it names a channel that is not one of the performance."""
        for channel in self._named():
            checks.one_of("channel", channel, CHANNELS)

    def check_rig(self) -> None:
        """Raises InputError where it holds what a touch-up layer cannot."""
        for channel in self._named():
            if rig_channel(channel) is None:
                raise InputError(f"{channel!r:.80} is no target and no joint of a rig", hint="Work in a layer beneath")
        if self.makers or any(self.regions.values()):
            raise InputError("a touch-up layer has neither makers nor regions", hint="They belong to a layer beneath")

    def _named(self) -> Iterable[str]:
        yield from self.keys
        for span in self.spans.values():
            yield from (*span.offset, *span.curves)


L = TypeVar("L", bound=LayerFields)


class LayerBody(LayerFields, Body):
    """A layer of one role of a shot. rank: order in its role, lower ones first; folder: under which it is listed; kept: earlier versions
    of what it says; character: of a touch-up layer, the one whose rig it is about: it acts after the cast sheet, on that character alone.
    """

    kind: ClassVar[str] = "layer"
    fixed: ClassVar[frozenset[str]] = frozenset({"schema", "shot", "character"})

    schema_number: Literal[1] = Field(default=1, alias="schema")
    shot: Identity
    role: Key
    character: Identity | None = None
    rank: float = Field(ge=-1e9, le=1e9)
    folder: Words = ""
    kept: dict[Key, LayerFields] = Field(default={}, max_length=MAX_KEPT)

    @model_validator(mode="after")
    def _of_one_kind(self) -> Self:
        every: list[LayerFields] = [self, *self.kept.values()]
        for said in every:
            if self.character is None:
                said.check_face()
            else:
                said.check_rig()
        return self

    def references(self) -> tuple[Reference, ...]:
        """The shot, and the character of a touch-up layer."""
        own = [Reference("character", "document", "character", self.character)] if self.character else []
        return (Reference("shot", "document", "shot", self.shot), *own)


def counting(layers: Iterable[L]) -> list[L]:
    """The layers that count, in their order: those that are solo where any is, without those that are mute."""
    own = list(layers)
    return [n for n in [n for n in own if n.solo] or own if not n.mute]


def _channel(name: str, table: Mapping[str, Any]) -> Mapping[str, Any]:
    """The keys of a channel, if there can be one of the name; raises InputError."""
    if rig_channel(name) is None:
        checks.one_of("channel", name, CHANNELS)
    return table
