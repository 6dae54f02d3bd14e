"""A layer that holds what is different in a file that came back, and nothing else."""

from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from fractions import Fraction
from typing import Any

import numpy as np

from dynaface.core.body.rotations import IDENTITY, Array, about, inverse, multiply, rotate
from dynaface.core.body.skeleton import Skeleton
from dynaface.core.cast.rig_curves import MILLIMETRES, joint_angles, joint_turn
from dynaface.core.curves.channels import Channels
from dynaface.core.curves.keys import MAX_KEYS
from dynaface.core.curves.reduce import reduce
from dynaface.core.layers.layer import Layer
from dynaface.core.layers.span import Span
from dynaface.core.returns.brought import Brought, Floats
from dynaface.core.returns.compare import Difference
from dynaface.core.shapes.rig import SLIDE_AXES, range_of, slide_channels, target_channel, turn_channels

WITHIN = 5e-4
"""By how much the curves of a layer may differ from what came back, of a channel's full range."""
LEAD = 6.0  # frames
NEAR = 6  # frames between the ends of two differences that are one span
MOST_SPANS = 500


@dataclass(frozen=True)
class Clock:
    """From frames of a file that came back to frames of a layer.

    at: (frames,) of the file, the frame of what was handed over that each is; base_rate: of that; start: seconds of the layer at its frame 0; rate,
    frames: of the layer.
    """

    at: Floats
    base_rate: Fraction
    start: float
    rate: Fraction
    frames: int

    @classmethod
    def of(cls, rate: Fraction, frames: int) -> "Clock":
        """Of what is said at the frames of the layer themselves."""
        return cls(np.arange(frames, dtype=np.float64), rate, 0.0, rate, frames)

    @property
    def _step(self) -> float:
        return float(self.at[1] - self.at[0]) if len(self.at) > 1 else 1.0

    def here(self, frame: int) -> float:
        """The frame of the layer at a frame of the file."""
        return (self.start + float(self.at[0] + frame * self._step) / float(self.base_rate)) * float(self.rate)

    def there(self, frames: Floats) -> Floats:
        """The frames of the file, whole or not, at frames of the layer."""
        return np.asarray((self.handed(frames) - self.at[0]) / self._step)

    def handed(self, frames: Floats) -> Floats:
        """The frames of what was handed over, whole or not, at frames of the layer."""
        return np.asarray((frames / float(self.rate) - self.start) * float(self.base_rate))

    def runs(self, found: Difference) -> list[tuple[int, int]]:
        """(first, last) frames of the layer in which it is different."""
        out = []
        for first, last in found.runs:
            low, high = round(self.here(first)), round(self.here(last))
            if high >= 0 and low < self.frames:
                out.append((max(low, 0), min(high, self.frames - 1)))
        return out


@dataclass(frozen=True)
class Axes:
    """How a file has its joints. rest: joint -> (4,) its rest in the frame of the joint above; world: joint -> (4,) its rest in the world, where the
    file's joints have the world's axes at rest, and stand: (4,) by which that world is turned; world is empty where they have their own axes.
    """

    rest: Mapping[str, Array] = field(default_factory=dict)
    world: Mapping[str, Array] = field(default_factory=dict)
    stand: Array = field(default_factory=lambda: IDENTITY)

    @classmethod
    def of(cls, skeleton: Skeleton, world: bool = False, lying: bool = False) -> "Axes":
        """Of a skeleton. world: the file's joints have the world's axes at rest; lying: and its world has z up."""
        rests, _ = skeleton.global_rest()
        stand = about("x", 90.0) if lying else IDENTITY
        return cls(
            dict(zip(skeleton.names, skeleton.rest, strict=True)),
            dict(zip(skeleton.names, rests, strict=True)) if world else {},
            stand,
        )

    def turn(self, joint: str, turn: Array) -> Array:
        """A turn of the file in the joint's own frame."""
        if joint not in self.world:
            return turn
        world = multiply(self.stand, self.world[joint])
        return multiply(multiply(inverse(world), turn), world)

    def slide(self, joint: str, place: Array) -> Array:
        """A way (n, 3) of the file along the joint's own axes."""
        if joint in self.world:
            place = rotate(np.broadcast_to(inverse(self.stand), (*place.shape[:-1], 4)), place)
        rest = self.rest.get(joint, IDENTITY)
        return rotate(np.broadcast_to(inverse(rest), (*place.shape[:-1], 4)), place)


def channels_of(found: Difference) -> tuple[str, ...]:
    """The channels of a layer that a difference is about."""
    if found.part == "turn":
        return turn_channels(found.of)
    if found.part == "place":
        return slide_channels(found.of)
    return (target_channel(found.of),) if found.part == "weight" else (found.of,)


def beneath_of(base: Brought, found: Sequence[Difference], axes: Axes) -> Channels:
    """What was handed over as channels of a layer, at its own frames: where a layer is made of files alone."""
    named: dict[str, Floats] = {}
    for one in found:
        names = channels_of(one)
        if one.part == "turn":
            rest = base.rest.get(one.of, IDENTITY)
            angles = joint_angles(axes.turn(one.of, multiply(inverse(rest), base.turns[one.of])))
            named |= {name: angles[name[-1]].astype(np.float64) for name in names}
        elif one.part == "place":
            named |= {name: np.zeros(base.frames) for name in names}
        else:
            named[names[0]] = base.curves[one.of]
    values = np.stack(list(named.values()), axis=1) if named else np.zeros((base.frames, 0))
    return Channels(tuple(named), values.astype(np.float32), base.rate)


def returned_layer(found: Sequence[Difference], clock: Clock, beneath: Channels, axes: Axes) -> Layer:
    """A layer that replaces; beneath: (frames of the layer, channels) all channels of the differences as they are beneath it."""
    spans = []
    for first, last, own in _grouped(found, clock):
        low, high = max(int(first - LEAD - 1), 0), min(int(last + LEAD + 1), clock.frames - 1)
        curves = {}
        for one in own:
            for channel, values in _values(one, clock, beneath, axes, low, high):
                within = WITHIN * range_of(channel)
                curves[channel] = reduce(values.astype(np.float32), float(clock.rate), within).keys[:MAX_KEYS]
        spans.append(Span(first, last, LEAD, LEAD, curves=curves, origin=float(low)))
    return Layer("replace", spans=tuple(spans))


def _values(found: Difference, clock: Clock, beneath: Channels, axes: Axes, low: int, high: int) -> Iterator[tuple[str, Floats]]:  # fmt: skip
    """(channel, its values at frames low..high of the layer)."""
    there = clock.there(np.arange(low, high + 1, dtype=np.float64))
    by, names = found.at(there), channels_of(found)
    was = {n: beneath.column(n)[low : high + 1].astype(np.float64) for n in names}
    if found.part == "turn":
        y, x, z = (np.nan_to_num(was[n]) for n in names)
        angles = joint_angles(multiply(joint_turn(y, x, z), axes.turn(found.of, by)))
        yield from ((name, angles[name[-1]].astype(np.float64)) for name in names)
    elif found.part == "place":
        by = axes.slide(found.of, by) * MILLIMETRES
        yield from ((name, was[name] + by[:, SLIDE_AXES.index(name[-1])]) for name in names)
    else:
        values = was[names[0]] + by
        if found.filled is not None:
            put = found.filled[np.clip(np.round(there).astype(int), 0, len(found.filled) - 1)]
            values = np.where(np.isfinite(put), put, values)
        yield names[0], values


def _grouped(found: Iterable[Difference], clock: Clock) -> list[tuple[int, int, list[Difference]]]:
    """Spans (first, last) of the layer, each with the differences that begin and end about there."""
    runs = sorted(((a, b, d) for d in found for a, b in clock.runs(d)), key=lambda r: r[:2])
    near = NEAR
    while True:
        out: list[tuple[int, int, list[Difference]]] = []
        for first, last, one in runs:
            fits = [n for n, (a, b, own) in enumerate(out) if abs(a - first) <= near and abs(b - last) <= near and not any(o is one for o in own)]  # fmt: skip
            if fits:
                a, b, own = out[fits[-1]]
                out[fits[-1]] = (min(a, first), max(b, last), [*own, one])
            else:
                out.append((first, last, [one]))
        if len(out) <= MOST_SPANS:
            return out
        near *= 2


def described(found: Difference, clock: Clock) -> dict[str, Any]:
    """For people: what it is about, how far it goes and when."""
    unit = {"turn": "degrees", "place": "mm"}.get(found.part, "")
    most = found.most * (MILLIMETRES if found.part == "place" else 1.0)
    runs = clock.runs(found)
    return {
        "part": found.part, "of": found.of, "most": round(most, 4), "unit": unit, "runs": [list(r) for r in runs],
        "frames": sum(b - a + 1 for a, b in runs), "channels": list(channels_of(found)),
    }  # fmt: skip
