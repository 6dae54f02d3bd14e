"""One layer on what lies beneath it: keys, spans and makers, by kind, with a weight, on the channels that it reaches."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from functools import cached_property

import numpy as np

from dynaface.core.curves.channels import Channels, Floats
from dynaface.core.curves.keys import Keys, evaluate_keys, key_table
from dynaface.core.identity import content_key
from dynaface.core.layers.around import NOTHING, Around
from dynaface.core.layers.maker import PlacedMaker, known_makers
from dynaface.core.layers.span import Span
from dynaface.core.layers.weight import Amounts, Weight, toward, turned
from dynaface.core.shapes.regions import FACE, REGION
from dynaface.core.shapes.rig import in_order, rotations
from dynaface.core.shapes.standard import HEAD_TRAVEL

CAPTURED = (*FACE, "travel")
"""What has a weight of its own in a capture: the regions, and how far the head went beside how it turned."""
KINDS = ("add", "replace", "scale")
REST = {"add": 0.0, "replace": 0.0, "scale": 1.0}
"""By kind: the value at which a key of a layer does nothing; one that replaces does something at any value."""


@dataclass(frozen=True)
class Layer:
    """kind: one of KINDS; regions: on which it acts, all of them where empty; keys: channel -> keys; what spans and keys say is
    added to what is beneath ("add"), stands in its place ("replace") or is a factor of it ("scale"); makers always add.
    """

    kind: str
    regions: frozenset[str] = frozenset()
    weight: Weight = field(default_factory=Weight)
    keys: Mapping[str, Keys] = field(default_factory=dict)
    spans: tuple[Span, ...] = ()
    makers: tuple[PlacedMaker, ...] = ()

    def reaches(self, channel: str) -> bool:
        """Whether it acts on a channel."""
        return not self.regions or REGION.get(channel) in self.regions

    @cached_property
    def key(self) -> str:
        """Equal for layers that say the same."""
        keys = {channel: key_table(k) for channel, k in self.keys.items()}
        makers = [(m.maker, m.parameters) for m in self.makers]
        spans = [s.described for s in self.spans]
        return content_key(self.kind, self.regions, self.weight.described, keys, spans, makers)

    @property
    def needs(self) -> frozenset[str]:
        """Which fields of what is around its makers look at."""
        return frozenset().union(*(known_makers()[m.maker].needs for m in self.makers))

    @property
    def channels(self) -> tuple[str, ...]:
        """Channels of its keys and spans, in their order; the angles of one rotation go together."""
        named = set(self.keys).union(*(s.named for s in self.spans))
        return in_order(c for c in named.union(*rotations(named)) if self.reaches(c))


def stepped(layer: Layer) -> Layer:
    """The layer with every key held until the next, for looking at poses; its weight, spans and makers stay as they are."""
    held = {channel: tuple(replace(k, kind="stepped") for k in keys) for channel, keys in layer.keys.items()}
    return replace(layer, keys=held)


def apply_layer(beneath: Channels, layer: Layer, around: Around = NOTHING, first: int = 0) -> Channels:
    """What is beneath with the layer on it. A channel that is not there begins at rest; where a gap is, a layer that replaces fills
    it and any other leaves it. first: the frame at which what is beneath begins, where it is a stretch; a layer with makers needs all of it.
    """
    assert not (first and layer.makers)
    if not beneath.frames:
        return beneath
    frames, weight = beneath.frames, layer.weight.at(beneath.frames, first)
    made = _made(beneath, layer, around)
    named = list(layer.channels)
    wide = widened(beneath, [*named, *made])
    if not weight.any() or not (named or made):
        return beneath
    out = wide.values.copy()
    if named:
        columns = [wide.names.index(n) for n in named]
        value, cover = _said(layer, named, frames, first)
        part = out[:, columns]
        if layer.kind == "replace":
            _whole_rotations(part, value, cover, named)
        out[:, columns] = _acted(layer.kind, part, value, cover, weight, named)
    if made:
        columns = [wide.names.index(n) for n in made]
        _add(out, columns, np.stack([made[n] for n in made], axis=1).astype(np.float32), weight, list(made))
    return replace(wide, values=out)


def widened(channels: Channels, names: Sequence[str]) -> Channels:
    """The channels with further ones at rest; a rotation of which one angle is there gets all three."""
    wanted = set(names).union(*rotations(names))
    more = in_order(wanted.difference(channels.names))
    if not more:
        return channels
    rest = np.zeros((channels.frames, len(more)), np.float32)
    return replace(channels, names=channels.names + more, values=np.concatenate([channels.values, rest], axis=1))


def weaken_capture(channels: Channels, weights: Mapping[str, Weight]) -> Channels:
    """The capture by its weight, part by part of CAPTURED, 0..1.5 of it; parts that are not named count whole."""
    acting = {r: w for r, w in weights.items() if not w.full and r in CAPTURED}
    if not acting or not channels.frames:
        return channels
    amount = np.ones(channels.values.shape)
    for region, weight in acting.items():
        columns = [i for i, n in enumerate(channels.names) if _captured(n) == region]
        amount[:, columns] = weight.at(channels.frames)[:, None]
    rest = np.where(np.isnan(channels.values), np.float32(np.nan), np.float32(0))
    out = toward(rest, channels.values, amount, channels.names)
    return channels.with_values(np.where(amount == 1, channels.values, out).astype(np.float32))


def _captured(channel: str) -> str:
    """The part of CAPTURED that a channel is in."""
    return "travel" if channel in HEAD_TRAVEL else REGION[channel]


def _said(layer: Layer, named: Sequence[str], frames: int, first: int) -> tuple[Floats, Amounts]:
    """(frames, channels) from frame `first` on what keys and spans say, and how far they stand in for what is beneath, 0..1, in a layer that replaces."""
    rest = REST[layer.kind]
    # Channel by channel in memory: each is worked out as a whole.
    value = np.full((len(named), frames), rest, np.float32).T
    cover = np.zeros((len(named), frames)).T
    for column, name in enumerate(named):
        if name in layer.keys:
            value[:, column], cover[:, column] = evaluate_keys(layer.keys[name], frames, first), 1.0
    for span in layer.spans:
        low, high = span.touched(first + frames)
        low = max(low, first)
        if low >= high:
            continue
        envelope = span.envelope(low, high)
        wanted = {name: span.wanted(name, low, high) for name in span.named if name in named}
        low, high = low - first, high - first
        for name, offset in wanted.items():
            said, held = value[low:high, named.index(name)], cover[low:high, named.index(name)]
            if layer.kind == "replace":
                kept = np.maximum(held, envelope)
                share = np.divide(envelope, kept, out=np.zeros(high - low), where=kept > 0)
                said += ((offset - said) * share).astype(np.float32)
                held[:] = np.maximum(held, envelope * min(span.strength, 1.0))
            else:
                said += ((offset - rest) * envelope * span.strength).astype(np.float32)
    return value, cover


def _whole_rotations(beneath: Floats, value: Floats, cover: Amounts, names: Sequence[str]) -> None:
    """Angles of a rotation that are not said stay as they are beneath while the others are replaced."""
    for angles in rotations(names):
        columns = [names.index(n) for n in angles if n in names]
        said = cover[:, columns].max(axis=1)
        for column in columns:
            share = np.divide(cover[:, column], said, out=np.zeros(len(said)), where=said > 0)
            known = np.nan_to_num(beneath[:, column])
            value[:, column] = known + (value[:, column] - known) * share
            cover[:, column] = said


def _acted(kind: str, beneath: Floats, value: Floats, cover: Amounts, weight: Amounts, names: Sequence[str]) -> Floats:
    if kind == "replace":
        return toward(beneath, value, cover * weight[:, None], names)
    out = beneath.copy()
    if kind == "add":
        _add(out, list(range(len(names))), value, weight, names)
        return out
    return (beneath * (1 + (value - 1) * weight[:, None])).astype(np.float32)


def _add(out: Floats, columns: Sequence[int], value: Floats, weight: Amounts, names: Sequence[str]) -> None:
    """Adds values (frames, channels) by weight (frames,) to columns in place; angles of a rotation turn it."""
    whole = [angles for angles in rotations(names) if set(angles) <= set(names)]
    turning = [[names.index(n) for n in angles] for angles in whole]
    plain = [i for i in range(len(names)) if not any(i in three for three in turning)]
    out[:, [columns[i] for i in plain]] += (value[:, plain] * weight[:, None]).astype(np.float32)
    for three in turning:
        at = [columns[i] for i in three]
        out[:, at] = turned(out[:, at], value[:, three], weight)


def _made(beneath: Channels, layer: Layer, around: Around) -> dict[str, Amounts]:
    """channel -> (frames,) sum of what the makers add; the angles of one rotation go together."""
    out: dict[str, Amounts] = {}
    for placed in layer.makers:
        for channel, curve in known_makers()[placed.maker].make(beneath, placed.parameters, around).items():
            if layer.reaches(channel):
                out[channel] = out[channel] + curve if channel in out else curve
    whole = {n: np.zeros(beneath.frames) for angles in rotations(out) for n in angles}
    return {**whole, **out}
