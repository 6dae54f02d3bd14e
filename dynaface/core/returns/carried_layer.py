"""Touch-up layers on a newer version of a rig: targets and joints that are called otherwise, joints that stand otherwise at rest."""

from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass, replace

import numpy as np

from dynaface.core.body.rotations import IDENTITY, Array, inverse, multiply, rotate
from dynaface.core.cast.carry import joint_like
from dynaface.core.cast.character import Character
from dynaface.core.cast.rig_curves import joint_angles, joint_turn
from dynaface.core.curves.keys import Keys, keys_at
from dynaface.core.curves.reduce import reduce
from dynaface.core.layers.layer import Layer
from dynaface.core.layers.span import Span
from dynaface.core.returns.brought import Floats, turned_by
from dynaface.core.returns.returned_layer import WITHIN
from dynaface.core.shapes.rig import (
    SLIDE_AXES,
    TURN_AXES,
    range_of,
    rig_channel,
    slide_channels,
    target_channel,
    turn_channels,
)

STANDS = 0.5  # degrees by which a joint may rest otherwise and count as the same
RATE = 60.0  # frames a second that curves are taken to have when they are made of fewer keys again
Curves = Mapping[str, Keys]


@dataclass(frozen=True)
class _Joint:
    """A joint on the newer rig. by: (4,) how its own axes stand in those of the older one."""

    name: str
    by: Array

    @property
    def otherwise(self) -> bool:
        return float(turned_by(self.by[None], IDENTITY[None])[0]) > STANDS


def carry_layer(layer: Layer, old: Character, new: Character, renamed: Mapping[str, str]) -> tuple[Layer, list[str]]:
    """The layer for a newer rig, and in words what of it has no place there; that stays in the layer, for the older rig. renamed: targets,
    old -> new.
    """
    words: list[str] = []
    targets, joints = dict[str, str](), dict[str, _Joint]()
    for channel in sorted({*layer.keys, *(c for s in layer.spans for c in s.named)}):
        own = rig_channel(channel)
        if own is None or own.part == "reach":
            continue
        if own.part == "target":
            name = renamed.get(own.of, own.of)
            targets[own.of] = name if name in new.targets else own.of
            if name not in new.targets:
                words.append(f"{own.of} of a touch-up was left behind: {new.name} has no such target.")
        elif own.of not in joints and (found := _joint(own.of, old, new)) is not None:
            joints[own.of] = found
        elif own.of not in joints:
            words.append(f"{own.of} of a touch-up was left behind: {new.name} has no such joint.")
    carried = _Carried(targets, joints)
    made = replace(layer, keys=carried.curves(layer.keys), spans=tuple(carried.span(s) for s in layer.spans))
    return made, list(dict.fromkeys(words))


def _joint(name: str, old: Character, new: Character) -> _Joint | None:
    called = joint_like(name, new)
    if not called or old.skeleton is None or new.skeleton is None or name not in old.skeleton.names:
        return None
    ours, theirs = old.skeleton.global_rest()[0], new.skeleton.global_rest()[0]
    by = multiply(inverse(theirs[new.skeleton.index(called)]), ours[old.skeleton.index(name)])
    return _Joint(called, by)


@dataclass(frozen=True)
class _Carried:
    """targets: old -> new; joints: old -> how it is on the newer rig."""

    targets: Mapping[str, str]
    joints: Mapping[str, _Joint]

    def curves(self, curves: Curves) -> dict[str, Keys]:
        """Keys by channel of the newer rig; those of a joint that rests otherwise are made anew."""
        out = {self._named(c): keys for c, keys in curves.items()}
        for old, joint in self.joints.items():
            for names, turn in ((turn_channels, _turned), (slide_channels, _slid)):
                if joint.otherwise and any(n in curves for n in names(old)):
                    out |= _anew({n: curves[n] for n in names(old) if n in curves}, names(old), names(joint.name), joint.by, turn)  # fmt: skip
        return out

    def span(self, span: Span) -> Span:
        offset = {self._named(c): v for c, v in span.offset.items()}
        for old, joint in self.joints.items():
            for names, turn in ((turn_channels, _turned), (slide_channels, _slid)):
                if joint.otherwise and any(n in span.offset for n in names(old)):
                    was = [np.array([span.offset.get(n, 0.0)]) for n in names(old)]
                    offset |= {n: float(v[0]) for n, v in zip(names(joint.name), turn(was, joint.by), strict=True)}
        return replace(span, offset=offset, curves=self.curves(span.curves))

    def _named(self, channel: str) -> str:
        own = rig_channel(channel)
        if own is None or own.part == "reach":
            return channel
        if own.part == "target":
            return target_channel(self.targets.get(own.of, own.of))
        name = self.joints[own.of].name if own.of in self.joints else own.of
        if own.part == "turn":
            return turn_channels(name)[TURN_AXES.index(own.axis)]
        return slide_channels(name)[SLIDE_AXES.index(own.axis)]


Turn = Callable[[list[Floats], Array], Iterable[Floats]]


def _turned(angles: list[Floats], by: Array) -> list[Floats]:
    """Angles (y, x, z), each (frames,), in other axes."""
    found = joint_angles(multiply(multiply(by, joint_turn(*angles)), inverse(by)))
    return [np.asarray(found[axis], np.float64) for axis in "yxz"]


def _slid(ways: list[Floats], by: Array) -> list[Floats]:
    """Ways (x, y, z), each (frames,), along other axes."""
    way = np.stack(ways, axis=1)
    return list(rotate(np.broadcast_to(by, (len(way), 4)), way).T[: len(SLIDE_AXES)])


def _anew(curves: Curves, names: tuple[str, ...], called: tuple[str, ...], by: Array, turn: Turn) -> dict[str, Keys]:
    """Curves of a joint in its other axes, as keys within WITHIN of the channel's range, from the first key to the last."""
    frames = [k.frame for keys in curves.values() for k in keys]
    at = np.arange(np.floor(min(frames)), np.ceil(max(frames)) + 1)
    was = [keys_at(curves[n], at) if n in curves else np.zeros(len(at)) for n in names]
    out = {}
    for name, values in zip(called, turn(was, by), strict=True):
        keys = reduce(values.astype(np.float32), RATE, WITHIN * range_of(name)).keys
        out[name] = tuple(replace(k, frame=k.frame + float(at[0])) for k in keys)
    return out
