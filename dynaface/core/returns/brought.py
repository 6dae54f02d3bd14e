"""What a file that comes back says, whatever its format."""

from collections.abc import Callable, Collection, Mapping
from dataclasses import dataclass, field, replace
from fractions import Fraction
from typing import Any

import numpy as np
from numpy.typing import NDArray

from dynaface.core import checks
from dynaface.core.body.rotations import IDENTITY, Array, continuous, inverse, multiply, rotate, slerp
from dynaface.core.body.skeleton import Motion, Skeleton
from dynaface.core.curves.channels import Channels
from dynaface.core.errors import InputError
from dynaface.core.perform.perform import Performance

Floats = NDArray[np.float64]


@dataclass(frozen=True)
class Brought:
    """One character, or the curves of one face.

    frames: at least one; curves: name -> (frames,) weights of targets or, where `face`, channels of a performance, gaps NaN; turns: joint ->
    (frames, 4) against the joint above; places: joint -> (frames, 3) in the frame of the joint above, in the unit of the file; above: joint -> the
    joint above it. Of a joint without one both are as the scene has them. rest: joint -> (4,) how it is turned at rest, where that is known; world:
    whether joints have the world's axes at rest.
    """

    frames: int
    rate: Fraction
    curves: Mapping[str, Floats] = field(default_factory=dict)
    turns: Mapping[str, Array] = field(default_factory=dict)
    places: Mapping[str, Array] = field(default_factory=dict)
    above: Mapping[str, str] = field(default_factory=dict)
    face: bool = False
    rest: Mapping[str, Array] = field(default_factory=dict)
    world: bool = False

    def __post_init__(self) -> None:
        if self.frames < 1:
            raise InputError("the file has no frames")
        for tables, width in ((self.curves, None), (self.turns, 4), (self.places, 3)):
            for name, values in tables.items():
                checks.shaped(name, values, self.frames, *([width] if width else []))

    @property
    def names(self) -> tuple[str, ...]:
        """All that it names, in its own order."""
        return (*self.curves, *self.turns)

    @property
    def tops(self) -> frozenset[str]:
        """Joints without one above them."""
        return frozenset(n for n in self.turns if n not in self.above)

    def renamed(self, names: Mapping[str, str]) -> "Brought":
        """Under other names; what is not among them is left out, joints so that those beneath them stay where they are."""
        turns, places, above = {}, {}, {}
        for joint in (n for n in self.turns if n in names):
            turn, place, at = self.turns[joint], self.places[joint], self.above.get(joint)
            while at is not None and at not in names:
                turn, place = multiply(self.turns[at], turn), self.places[at] + rotate(self.turns[at], place)
                at = self.above.get(at)
            turns[names[joint]], places[names[joint]] = turn, place
            if at is not None:
                above[names[joint]] = names[at]
        curves = {names[n]: values for n, values in self.curves.items() if n in names}
        rest = {names[n]: q for n, q in self.rest.items() if n in names}
        return replace(self, curves=curves, turns=turns, places=places, above=above, rest=rest)

    def only(self, names: Collection[str]) -> "Brought":
        """Without what is not among the names, as `renamed` leaves it out."""
        return self.renamed({n: n for n in self.names if n in names})

    def in_world(self) -> "Brought":
        """With joints that have the world's axes at rest."""
        if self.world:
            return self
        stands: dict[str, Array] = {}
        turns = {}
        for joint, turn in self.turns.items():
            above = stands.get(self.above.get(joint, ""), IDENTITY)
            stands[joint] = multiply(above, self.rest.get(joint, IDENTITY))
            turns[joint] = multiply(multiply(above, turn), inverse(stands[joint]))
        places = {
            n: rotate(np.broadcast_to(stands.get(self.above.get(n, ""), IDENTITY), (len(p), 4)), p)
            for n, p in self.places.items()
        }
        return replace(self, turns=turns, places=places, rest={}, world=True)

    def mapped(self, curves: Callable[[Floats], Floats], turns: Callable[[Array], Array], places: Callable[[Array], Array]) -> "Brought":  # fmt: skip
        """With all of a kind made anew; the number of frames is that of what comes of it."""
        made = {
            "curves": {n: curves(v) for n, v in self.curves.items()},
            "turns": {n: turns(v) for n, v in self.turns.items()},
            "places": {n: places(v) for n, v in self.places.items()},
        }
        some: list[Any] = [v for table in made.values() for v in table.values()]
        return replace(self, frames=len(some[0]) if some else self.frames, **made)  # type: ignore[arg-type]

    def at(self, moments: Floats) -> "Brought":
        """At moments in frames, whole or between two: weights and places go straight between frames, turns along arcs; held outside."""
        low, high, part = neighbours(moments, self.frames)
        part[part < 1e-5] = 0

        def straight(values: Floats) -> Floats:
            share = part.reshape(-1, *(1,) * (values.ndim - 1))
            between = values[low] * (1 - share) + values[high] * share
            return np.where(share == 0, values[low], between)

        return self.mapped(straight, lambda q: slerp(q[low], q[high], part), straight)


def neighbours(moments: Floats, frames: int) -> tuple[NDArray[np.intp], NDArray[np.intp], Floats]:
    """(the frame at or before, the one after, how far between them) of moments (n,) in frames, of so many; the nearest outside."""
    low = np.clip(np.floor(moments + 1e-6).astype(np.intp), 0, frames - 1)
    return low, np.minimum(low + 1, frames - 1), np.clip(moments - low, 0, 1)


def of_channels(channels: Channels) -> Brought:
    """The curves of a face."""
    curves = {n: channels.values[:, i].astype(np.float64) for i, n in enumerate(channels.names)}
    return Brought(channels.frames, channels.rate, curves, face=True)


def of_performance(made: Performance, skeleton: Skeleton | None) -> Brought:
    """What a file of a performance on its character would say."""
    frames, rate = made.channels.frames, made.channels.rate
    curves = {t: made.cast.weights[:, n].astype(np.float64) for n, t in enumerate(made.cast.targets)}
    if skeleton is None:
        return Brought(frames, rate, curves)
    return replace(_of_joints(made.motion(skeleton), made.moved), curves=curves)


def of_motion(motion: Motion, world: bool = False) -> Brought:
    """A body; world: whether its joints have the world's axes at rest."""
    tops = {n: motion.root for n, p in zip(motion.skeleton.names, motion.skeleton.parents, strict=True) if p < 0}
    return replace(_of_joints(motion, tops), world=world)


def _of_joints(motion: Motion, moved: Mapping[str, Any]) -> Brought:
    """moved: joint -> (frames, 3) metres by which it goes from its rest."""
    skeleton, frames = motion.skeleton, motion.frames
    turns, places, above = {}, {}, {}
    for number, name in enumerate(skeleton.names):
        turns[name] = continuous(np.asarray(motion.local[:, number], np.float64))
        places[name] = np.tile(np.asarray(skeleton.offsets[number], np.float64), (frames, 1))
        if name in moved:
            places[name] = places[name] + moved[name]
        if skeleton.parents[number] >= 0:
            above[name] = skeleton.names[skeleton.parents[number]]
    rest = dict(zip(skeleton.names, np.asarray(skeleton.rest, np.float64), strict=True))
    return Brought(frames, motion.rate, {}, turns, places, above, rest=rest)


def turned_by(one: Array, other: Array) -> Floats:
    """(n,) degrees between rotations (n, 4), exact for turns so small that the length of a quaternion of single precision would hide them."""
    apart = multiply(inverse(one), other)
    return np.degrees(2 * np.arctan2(np.linalg.norm(apart[..., :3], axis=-1), np.abs(apart[..., 3])))
