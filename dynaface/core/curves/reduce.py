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
from dynaface.core.curves.keys import Key, Keys

TOLERANCE = 0.005
GREED = 1.7  # pieces are grown to this many tolerances: solving for all keys together brings them below one
SAFE = 0.97  # of the tolerance is what the solver may use; the rest is for rounding
GONE, FREE, FLAT, CORNER = 0, 1, 2, 3
HOLD = 0.5  # seconds a curve stays within half the tolerance to count as held
ROUNDS = 40
WIDE = 0.03  # a blink keeps its shape at any smaller tolerance
HOPELESS = 12  # tolerances: a key whose absence makes so much difference is not tried
NEAR = 3  # keys to either side that may move when one is taken out
FAINT = 1e-4  # how strongly keys are drawn to the curve itself, for pieces too short to tell

Fitted = tuple[NDArray[np.int64], NDArray[np.int8], NDArray[np.float64]]  # frames, kinds, (keys, 3)


@dataclass(frozen=True)
class Reduced:
    """keys; worst and mean error over the known frames, in the curve's units."""

    keys: Keys
    worst: float
    mean: float


@njit(cache=True)
def _piece_error(y, a, b, va, ma, vb, mb):  # type: ignore[no-untyped-def]
    """(worst error, its frame) of the Hermite piece from frame a to b."""
    length = b - a
    worst, at = 0.0, a
    for f in range(a, b + 1):
        s = (f - a) / length
        r = 1.0 - s
        v = va * r * r * (1 + 2 * s) + vb * s * s * (3 - 2 * s) + length * s * r * (ma * r - mb * s)
        e = abs(v - y[f])
        if e > worst:
            worst, at = e, f
    return worst, at


@njit(cache=True)
def _curve(frames, made, length):  # type: ignore[no-untyped-def]
    """(length,) of the pieces between keys, held before the first and after the last."""
    out = np.empty(length, np.float32)
    out[: frames[0] + 1] = made[0, 1]
    out[frames[-1] :] = made[-1, 1]
    for k in range(frames.size - 1):
        a, span = frames[k], frames[k + 1] - frames[k]
        for f in range(a, frames[k + 1]):
            s = (f - a) / span
            r = 1.0 - s
            out[f] = (made[k, 1] * r * r * (1 + 2 * s) + made[k + 1, 1] * s * s * (3 - 2 * s)
                      + span * s * r * (made[k, 2] * r - made[k + 1, 0] * s))  # fmt: skip
    return out


@njit(cache=True)
def _grow(y, left, right, marks, limit, keyed):  # type: ignore[no-untyped-def]
    """Sets keys between marked frames: from each, the longest piece within the limit."""
    n = y.size
    a = 0
    while a < n - 1:
        stop = a + 1
        while stop < n - 1 and marks[stop] == 0:
            stop += 1
        good, step = a + 1, 1
        while good < stop:  # gallop, then close in
            b = min(good + step, stop)
            if _piece_error(y, a, b, y[a], right[a], y[b], left[b])[0] <= limit:
                good = b
                step *= 2
            elif step == 1:
                break
            else:
                step = max(step // 4, 1)
        keyed[good] = True
        a = good


@njit(cache=True)
def _solve(y, frames, kinds, wished, pull):  # type: ignore[no-untyped-def]
    """(keys, 3) slope before, value, slope after of keys at `frames` by least squares over y between the first and the
    last of them; flat keys stay flat. Each is drawn to `wished` (keys, 3) with the weight `pull` (keys,).
    """
    count = frames.size
    index = np.full((count, 3), -1, np.int64)  # unknowns: slope before, value, slope after
    unknowns = 0
    for k in range(count):
        if kinds[k] == 3:
            index[k, 0] = unknowns
            unknowns += 1
        index[k, 1] = unknowns
        unknowns += 1
        if kinds[k] == 1:
            index[k, 0] = index[k, 2] = unknowns
            unknowns += 1
        elif kinds[k] == 3:
            index[k, 2] = unknowns
            unknowns += 1
    band = np.zeros((unknowns, 6))  # row i holds entries i .. i + 5
    told = np.zeros(unknowns)
    for k in range(count):
        for which in range(3):
            i = index[k, which]
            if i >= 0:
                band[i, 0] += pull[k]
                told[i] += pull[k] * wished[k, which]
    slot = np.empty(4, np.int64)
    weight = np.empty(4)
    for k in range(count - 1):
        a, b = frames[k], frames[k + 1]
        length = b - a
        slot[0], slot[1], slot[2], slot[3] = index[k, 1], index[k, 2], index[k + 1, 0], index[k + 1, 1]
        for f in range(a, b + (1 if k == count - 2 else 0)):
            s = (f - a) / length
            r = 1.0 - s
            weight[0] = r * r * (1 + 2 * s)
            weight[1] = length * s * r * r
            weight[2] = -length * s * s * r
            weight[3] = s * s * (3 - 2 * s)
            for p in range(4):
                if slot[p] < 0:
                    continue
                told[slot[p]] += weight[p] * y[f]
                for q in range(4):
                    if slot[q] >= slot[p]:
                        band[slot[p], slot[q] - slot[p]] += weight[p] * weight[q]
    for i in range(unknowns):  # banded Cholesky, in place
        for d in range(1, 6):
            j = i + d
            if j >= unknowns:
                break
            factor = band[i, d] / band[i, 0]
            for e in range(d, 6):
                band[j, e - d] -= factor * band[i, e]
            told[j] -= factor * told[i]
    found = np.empty(unknowns)
    for i in range(unknowns - 1, -1, -1):
        total = told[i]
        for d in range(1, 6):
            if i + d < unknowns:
                total -= band[i, d] * found[i + d]
        found[i] = total / band[i, 0]
    out = np.zeros((count, 3))
    for k in range(count):
        for which in range(3):
            if index[k, which] >= 0:
                out[k, which] = found[index[k, which]]
    return out


@njit(cache=True)
def _worst(y, frames, made, k):  # type: ignore[no-untyped-def]
    """(worst error, its frame) of the piece from key k to the next."""
    return _piece_error(y, frames[k], frames[k + 1], made[k, 1], made[k, 2], made[k + 1, 1], made[k + 1, 0])


@njit(cache=True)
def _split(y, frames, made, limit, keyed):  # type: ignore[no-untyped-def]
    """Sets a key in each piece that is over the limit; how many there were."""
    over = 0
    for k in range(frames.size - 1):
        a, b = frames[k], frames[k + 1]
        worst, at = _worst(y, frames, made, k)
        if worst > limit:
            over += 1
            if b - a > 1:
                # A piece is cut where it is worst, but not so near its end that the rest gains nothing.
                margin = max(1, (b - a) // 5)
                keyed[min(max(at, a + margin), b - margin)] = True
    return over


@njit(cache=True)
def _thin(y, frames, kinds, made, limit):  # type: ignore[no-untyped-def]
    """Takes out each free key that the keys about it can stand in for, moved as they like: (kept numbers, keys (n, 3))."""
    made = made.copy()
    count = frames.size
    after, before = np.arange(1, count + 1), np.arange(-1, count - 1)  # chains of the keys that are still there
    near = np.empty(2 * NEAR, np.int64)
    k = 1
    while k < count - 1:
        left, right = before[k], after[k]
        hopeless = _piece_error(
            y, frames[left], frames[right], made[left, 1], made[left, 2], made[right, 1], made[right, 0]
        )
        if kinds[k] == FREE and hopeless[0] <= HOPELESS * limit:
            size, low, high = 0, left, right
            for _ in range(NEAR):
                near[size] = low
                size += 1
                if before[low] < 0:
                    break
                low = before[low]
            near[:size] = near[:size][::-1].copy()
            for _ in range(NEAR):
                near[size] = high
                size += 1
                if after[high] >= count:
                    break
                high = after[high]
            some = near[:size]
            pull = np.full(size, FAINT)
            pull[0] = pull[-1] = 1e9  # the outermost stay as they are: nothing beyond them changes
            there = frames[some]
            tried = _solve(y, there, kinds[some], made[some], pull)
            fits = True
            for i in range(size - 1):
                if _worst(y, there, tried, i)[0] > limit:
                    fits = False
                    break
            if fits:
                made[some] = tried
                after[left], before[right] = right, left
                kinds[k] = GONE
        k = right
    kept = np.flatnonzero(kinds != GONE)
    return kept, made[kept]


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
    beside = np.maximum(np.roll(bend, 2), np.roll(bend, -2))
    near = np.maximum(np.roll(bend, 1), np.roll(bend, -1))
    corner = (bend > 2 * tolerance) & (bend > 4 * beside) & (bend > 2 * near)
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
    error = np.abs(_curve(frames, made, len(y)) - values)[known]
    return Reduced(keys, float(error.max()), float(error.mean()))


def _fit(y: NDArray[np.float64], rate: float, limit: float) -> Fitted:
    wide, left, right = _slopes(y)
    marks = _marks(y, limit, rate)
    before, after = wide.copy(), wide.copy()
    before[marks == CORNER], after[marks == CORNER] = left[marks == CORNER], right[marks == CORNER]
    before[marks == FLAT] = after[marks == FLAT] = 0.0
    keyed = marks > 0
    _grow(y, before, after, marks, GREED * limit, keyed)

    wished = np.stack([before, y, after], axis=1)
    for _ in range(ROUNDS):
        frames = np.flatnonzero(keyed)
        kinds = np.maximum(marks[frames], FREE)
        made = _solve(y, frames, kinds, wished[frames], np.full(len(frames), FAINT))
        if not _split(y, frames, made, limit, keyed):
            break
    else:
        return _exact(y, keyed, limit)
    kept, thinned = _thin(y, frames, kinds.copy(), made, limit)
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
        if not _split(y, frames, made, limit, keyed):
            return frames, np.full(len(frames), FREE, np.int8), made


def _as_keys(frames: NDArray[np.int64], kinds: NDArray[np.int8], made: NDArray[np.float64]) -> Keys:
    return tuple(
        Key(float(f), float(v), float(b), float(a), "flat" if kind == FLAT else "free")
        for f, kind, (b, v, a) in zip(frames, kinds, made, strict=True)
    )
