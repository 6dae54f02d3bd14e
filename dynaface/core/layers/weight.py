"""Weights that are keyed over time, and composing values with them: angles of one rotation as a rotation, the rest as numbers."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from dynaface.core import checks
from dynaface.core.body.rotations import IDENTITY, Array, head_angles, head_rotation, multiply, slerp
from dynaface.core.curves.channels import Floats
from dynaface.core.curves.keys import Keys, evaluate_keys, key_table
from dynaface.core.shapes.rig import rotations

MOST = 1.5
Amounts = NDArray[np.float64]


@dataclass(frozen=True)
class Weight:
    """How much of something counts, 0..MOST: `value` everywhere, or what the keys say where there are any."""

    value: float = 1.0
    keys: Keys = ()

    def __post_init__(self) -> None:
        checks.within("weight", self.value, 0, MOST)
        for key in self.keys:
            checks.within(f"the weight at frame {key.frame:g}", key.value, 0, MOST)

    @property
    def full(self) -> bool:
        """Whether it is 1 everywhere."""
        return self.value == 1.0 and not self.keys

    @property
    def described(self) -> tuple[object, ...]:
        """Plain values, equal for weights that say the same."""
        return self.value, key_table(self.keys)

    def at(self, frames: int, first: int = 0) -> Amounts:
        """(frames,) values from frame `first` on; a curve between two keys that leaves the limits is held at them."""
        if not self.keys:
            return np.full(frames, self.value)
        return np.clip(evaluate_keys(self.keys, frames, first).astype(np.float64), 0, MOST)


def toward(before: Floats, after: Floats, weight: Amounts, names: Sequence[str]) -> Floats:
    """From `before` (weight 0) to `after` (weight 1), both (frames, channels), by weight (frames,) or (frames, channels); beyond 1
    on the same way. The angles of a rotation go along one arc. Where one of the two is a gap the other is taken, unless that has no weight.
    """
    amount = np.broadcast_to(weight[:, None] if weight.ndim == 1 else weight, before.shape)
    with np.errstate(invalid="ignore"):
        out = before + (after - before) * amount
    for angles in rotations(names):
        if not set(angles) <= set(names):
            continue
        three = [names.index(n) for n in angles]
        share = amount[:, three[0]]
        moved = (share > 0) & (share != 1)
        if moved.any():
            a, b = _rotations(before[moved][:, three]), _rotations(after[moved][:, three])
            out[np.ix_(moved, three)] = np.stack(head_angles(slerp(a, b, share[moved])), axis=1)
    # Most weights are neither 0 nor 1 anywhere, or one of them everywhere, and gaps are rare: what is not there costs nothing.
    if (weight == 0).any():
        out = np.where(amount == 0, before, out)
    if (weight == 1).any():
        out = np.where(amount == 1, after, out)
    empty = np.isnan(before)
    if empty.any():
        out = np.where(empty & (amount > 0), after, out)
    gone = np.isnan(after)
    if gone.any():
        out = np.where(gone & (amount < 1), before, out)
    return np.asarray(out, np.float32)


def turned(before: Floats, offset: Floats, weight: Amounts) -> Floats:
    """Angles (frames, 3) in degrees, as those of a head, turned by further ones (frames, 3) on the local side, by weight (frames,) of the way."""
    moved = (offset != 0).any(axis=1) & (weight != 0)
    out = before.copy()
    if moved.any():
        by = slerp(IDENTITY, _rotations(offset[moved]), weight[moved])
        out[moved] = np.stack(head_angles(multiply(_rotations(before[moved]), by)), axis=1)
    return np.where(np.isnan(before), before, out).astype(np.float32)


def _rotations(angles: Floats) -> Array:
    return head_rotation(*np.nan_to_num(angles).T.astype(np.float64))
