"""A dense curve as the fewest keys within a tolerance, smooth where the curve is smooth.

Keys are first set where an animator would: at ends, extremes and the ends of holds (flat), and at corners (slopes of
their own). Between them, the longest piece that fits is taken again and again (Schneider 1990 splits; here pieces grow).
Then values and slopes of all keys are found together by least squares, each slope shared by the pieces on both sides, so
that the curve has no corner that was not found (C1). What is still over the tolerance gets a key more; then each key is
taken out that its neighbours, solved again, can do without. The check is on the curve as it will be evaluated.
"""

from dataclasses import dataclass

import numpy as np
from numba import njit
from numpy.typing import NDArray

from dynaface.core.curves.channels import Floats
from dynaface.core.curves.events import blinks, crests
from dynaface.core.curves.gaps import bridged
from dynaface.core.curves.key_pieces import CORNER, FAINT, FLAT, FREE, curve_of, grow, solve, split, thin
from dynaface.core.curves.keys import Key, Keys

TOLERANCE = 0.005
GREED = 1.7  # pieces are grown to this many tolerances: solving for all keys together brings them below one
SAFE = 0.97  # of the tolerance is what the solver may use; the rest is for rounding
HOLD = 0.5  # seconds a curve stays within half the tolerance to count as held
ROUNDS = 40
WIDE = 0.03  # a blink keeps its shape at any smaller tolerance

Fitted = tuple[NDArray[np.int64], NDArray[np.int8], NDArray[np.float64]]  # frames, kinds, (keys, 3)


@dataclass(frozen=True)
class Reduced:
    """keys; worst and mean error over the known frames, in the curve's units."""

    keys: Keys
    worst: float
    mean: float


@njit(cache=True)
def _holds(y, width, least, marks):  # type: ignore[no-untyped-def]
    """Marks both ends of each stretch of at least `least` frames that stays within `width`."""
    first = 0
    low = high = y[0]
    for f in range(1, y.size + 1):
        if f < y.size and max(high, y[f]) - min(low, y[f]) <= width:
            low, high = min(low, y[f]), max(high, y[f])
            continue
        if f - first >= least:
            for edge in (first, f - 1):
                if marks[edge] != CORNER:
                    marks[edge] = FLAT
        if f < y.size:
            first, low, high = f, y[f], y[f]


def _slopes(y: NDArray[np.float64]) -> tuple[NDArray[np.float64], NDArray[np.float64], NDArray[np.float64]]:
    """(slope by a local line, from the left alone, from the right alone), each (frames,), a frame."""
    step = np.diff(y)
    left = np.concatenate([[step[0]], step])
    right = np.concatenate([step, [step[-1]]])
    wide = np.convolve(np.pad(y, 2, mode="reflect", reflect_type="odd"), [0.2, 0.1, 0.0, -0.1, -0.2], mode="valid")
    return wide, left, right


def _marks(y: NDArray[np.float64], tolerance: float, rate: float) -> NDArray[np.int8]:
    """(frames,) FREE, FLAT or CORNER where a key must stand, 0 elsewhere."""
    n = len(y)
    out = np.zeros(n, np.int8)
    rise = max(0.02, 6 * tolerance)
    for curve in (y, -y):
        for peak, _, _ in crests(curve, rise):
            out[peak] = FLAT
    # A corner: the slope changes at one frame by much more than at the frames beside it.
    bend = np.abs(np.diff(y, n=2, prepend=y[:1], append=y[-1:]))
    neighbours = np.maximum(np.roll(bend, 2), np.roll(bend, -2))
    near = np.maximum(np.roll(bend, 1), np.roll(bend, -1))
    corner = (bend > 2 * tolerance) & (bend > 4 * neighbours) & (bend > 2 * near)
    corner[:3] = corner[-3:] = False
    out[corner] = CORNER
    _holds(y, 0.5 * tolerance, max(4, int(HOLD * rate)), out)
    for end in (0, n - 1):
        out[end] = out[end] or FREE
    return out


def reduce(values: Floats, rate: float, tolerance: float = TOLERANCE) -> Reduced:
    """(frames,) values, gaps bridged, as keys whose curve is nowhere farther than `tolerance` from them.

    A blink keeps three keys at least.
    """
    known = np.isfinite(values)
    if not known.any():
        return Reduced((), 0.0, 0.0)
    y = bridged(values[:, None])[:, 0].astype(np.float64)
    if len(y) < 3:
        keys = tuple(Key(float(f), float(v), kind="linear") for f, v in enumerate(y))
        return Reduced(keys, 0.0, 0.0)
    frames, kinds, made = _fit(y, rate, tolerance * SAFE)
    keys = _as_keys(frames, kinds, made)
    error = np.abs(curve_of(frames, made, len(y)) - values)[known]
    return Reduced(keys, float(error.max()), float(error.mean()))


def _fit(y: NDArray[np.float64], rate: float, limit: float) -> Fitted:
    wide, left, right = _slopes(y)
    marks = _marks(y, limit, rate)
    before, after = wide.copy(), wide.copy()
    before[marks == CORNER], after[marks == CORNER] = left[marks == CORNER], right[marks == CORNER]
    before[marks == FLAT] = after[marks == FLAT] = 0.0
    keyed = marks > 0
    grow(y, before, after, marks, GREED * limit, keyed)

    wished = np.stack([before, y, after], axis=1)
    for _ in range(ROUNDS):
        frames = np.flatnonzero(keyed)
        kinds = np.maximum(marks[frames], FREE)
        made = solve(y, frames, kinds, wished[frames], np.full(len(frames), FAINT))
        if not split(y, frames, made, limit, keyed):
            break
    else:
        return _exact(y, keyed, limit)
    kept, thinned = thin(y, frames, kinds.copy(), made, limit)
    frames, kinds, made = frames[kept], kinds[kept], thinned
    return _with_blinks(y, rate, limit, frames, kinds, made) if limit > WIDE else (frames, kinds, made)


def _with_blinks(y: NDArray[np.float64], rate: float, limit: float, frames: NDArray[np.int64], kinds: NDArray[np.int8],
                 made: NDArray[np.float64]) -> Fitted:  # fmt: skip
    """A blink that has lost its shape to a wide tolerance gets its keys at the curve's own values."""
    keyed = np.zeros(len(y), bool)
    keyed[frames] = True
    poor = False
    for blink in blinks(y.astype(np.float32), rate):
        if keyed[max(0, blink.first - 3) : blink.last + 4].sum() < 3:
            keyed[[blink.first, blink.peak, blink.last]] = poor = True
    return _exact(y, keyed, limit) if poor else (frames, kinds, made)


def _exact(y: NDArray[np.float64], keyed: NDArray[np.bool_], limit: float) -> Fitted:
    """Keys at the curve's own values and slopes. Least squares does not promise the worst frame; this does."""
    wide, _, _ = _slopes(y)
    while True:
        frames = np.flatnonzero(keyed)
        made = np.stack([wide[frames], y[frames], wide[frames]], axis=1)
        if not split(y, frames, made, limit, keyed):
            return frames, np.full(len(frames), FREE, np.int8), made


def _as_keys(frames: NDArray[np.int64], kinds: NDArray[np.int8], made: NDArray[np.float64]) -> Keys:
    return tuple(
        Key(float(f), float(v), float(b), float(a), "flat" if kind == FLAT else "free")
        for f, kind, (b, v, a) in zip(frames, kinds, made, strict=True)
    )
