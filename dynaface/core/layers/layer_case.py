"""A channel of a layer in an edit of keys: what is drawn or brushed is the face as it shall be with all layers; what the layer's keys
must say for that is worked out from how far the face follows them.
"""

from collections.abc import Mapping
from functools import cached_property
from typing import Protocol

import numpy as np

from dynaface.core.curves import key_edits
from dynaface.core.curves.channels import Floats
from dynaface.core.curves.gaps import bridged
from dynaface.core.curves.held import Held
from dynaface.core.curves.keys import Key, Keys, evaluate_keys
from dynaface.core.curves.reduce import reduce
from dynaface.core.errors import InputError
from dynaface.core.keying.case import Column, Edit, KeyCase, Made, corrected
from dynaface.core.layers.layer import REST
from dynaface.core.shapes.rig import range_of

MODE = {"add": "offset", "replace": "keys", "scale": "factor"}
"""By the kind of a layer: what its keys mean."""
PROBE = 0.05  # of a channel's full range, by which keys are moved to see how far the face follows
LEAST = 0.02  # of a change of the keys has to arrive in the face
FARTHEST = {"add": 2.0, "replace": 2.0, "scale": 10.0}  # full ranges, or factors, that a stroke makes keys say at most
ROUNDS = 1  # of looking where the face got to: turns of the head do not simply add


class Result(Protocol):
    """(channel, its keys in the layer) -> (frames,) the channel with all layers."""

    def __call__(self, channel: str, keys: Keys) -> Floats: ...


class LayerCase(KeyCase):
    """What a layer of a kind says of one channel; result: what the face would be with other keys; other: the channel of the other side,
    where a rig says which that is.
    """

    def __init__(self, kind: str, result: Result, channel: str, held: Held | None, chosen: frozenset[int],
                 beside: Mapping[str, Held], column: Column, edit: Edit, other: str | None = None) -> None:  # fmt: skip
        super().__init__(channel, held, chosen, beside, column, edit)
        self.kind, self.result, self.other = kind, result, other

    @property
    def other_side(self) -> str | None:
        """The channel of the other side."""
        return self.other or super().other_side

    @property
    def _unit(self) -> float:
        """A full range of what keys say: of the channel, or a factor."""
        return 1.0 if self.kind == "scale" else range_of(self.channel)

    @property
    def tolerance(self) -> float:
        """In what keys say."""
        return super().tolerance / range_of(self.channel) * self._unit

    @property
    def keys(self) -> Keys:
        """Its keys, none at first."""
        return self.held.keys if self.held else ()

    def with_keys(self, keys: Keys) -> Made:
        """The layer with other keys on the channel."""
        return {self.channel: Held(MODE[self.kind], keys)}

    @cached_property
    def _beneath(self) -> Floats:
        return np.nan_to_num(self.column.beneath)

    @cached_property
    def _whole(self) -> Keys:
        """Its keys; those of what lies beneath where a layer that replaces has none, so that nothing else changes."""
        if self.keys or self.kind != "replace":
            return self.keys
        return reduce(self._beneath, self.column.rate, self.tolerance).keys or (Key(0.0, 0.0),)

    @cached_property
    def _says(self) -> Floats:
        """(frames,) what the keys say."""
        if not self._whole:
            return np.full(self.frames, REST[self.kind], np.float32)
        return evaluate_keys(self._whole, self.frames)

    @cached_property
    def _follows(self) -> tuple[Floats, Floats]:
        """(the face with these keys, and by how much it changes for each unit that they change), both (frames,)."""
        probe = PROBE * self._unit
        keys = self._whole or (Key(0.0, REST[self.kind]),)
        now = np.nan_to_num(self.result(self.channel, keys))
        moved = tuple(key_edits.move(keys, range(len(keys)), 0, probe, snap=False))
        return now, (np.nan_to_num(self.result(self.channel, moved)) - now) / probe

    def _wanted(self, first: int, curve: Floats) -> Floats:
        """(frames,) what the keys must say for the face to be `curve` from frame `first` on; raises InputError where it does not follow."""
        now, gain = (column[first : first + len(curve)] for column in self._follows)
        follows = np.abs(gain) > LEAST
        if not follows.any():
            raise InputError(
                f"{self.channel} does not follow this layer here",
                hint="Give the layer weight, count it, or work in the layer above",
            )
        says = self._says[first : first + len(curve)].astype(np.float64)
        most = FARTHEST[self.kind] * self._unit
        for left in range(ROUNDS, -1, -1):
            says = says + np.divide(curve - now, gain, out=np.zeros_like(says), where=follows)
            says = np.clip(says, -most, most)
            if left:
                dense = tuple(Key(float(first + n), float(v), kind="linear") for n, v in enumerate(says))
                now = np.nan_to_num(self.result(self.channel, dense))[first : first + len(curve)]
        return says.astype(np.float32)

    def with_curve(self, first: int, curve: Floats) -> Made:
        """Keys that bring the face to `curve` from frame `first` on, as far as it follows this layer."""
        return self._saying(first, self._wanted(first, curve))

    def _saying(self, first: int, says: Floats) -> Made:
        keys = corrected(self._whole, REST[self.kind], first, says, self.tolerance, self.frames)
        return self.with_keys(keys)

    def said(self, frame: float, value: float | None) -> float | None:
        """A first key says what changes nothing; a further one lies on the curve of the others."""
        at = min(max(round(frame), 0), self.frames - 1)
        if value is not None:
            return float(self._wanted(at, np.array([value], np.float32))[0])
        if self.keys:
            return None
        return float(self._beneath[at]) if self.kind == "replace" else REST[self.kind]

    def reduced(self) -> Made:
        """In a layer that replaces, the face as it is now; raises InputError in others."""
        if self.kind != "replace":
            raise InputError(
                "only a layer that replaces holds whole curves", hint="Bake the layers, or draw where it shall differ"
            )
        return self.with_keys(reduce(bridged(self.column.now[:, None])[:, 0], self.column.rate, self.tolerance).keys)

    def begun(self) -> Made:
        """Keys at both ends that change nothing; those that are there stay."""
        if self.held is not None:
            return {self.channel: self.held}
        if self.kind == "replace":
            return self.reduced()
        rest, last = REST[self.kind], float(self.frames - 1)
        return self.with_keys((Key(0.0, rest, kind="flat"), Key(last, rest, kind="flat")))

    def restored(self, first: int, last: int, raw: bool) -> Made:
        """A range as if this layer had no keys, or as it was captured."""
        if raw:
            return self.with_curve(first, bridged(self.column.raw[first : last + 1, None])[:, 0])
        if self.kind == "replace":
            return self._saying(first, self._beneath[first : last + 1])
        return self._saying(first, np.full(last + 1 - first, REST[self.kind], np.float32))
