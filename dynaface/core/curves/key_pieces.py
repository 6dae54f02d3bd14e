"""The arithmetic of reducing a curve to keys, on arrays: keys are frames, kinds and (keys, 3) slope before, value, slope
after. `core/curves/reduce.py` says what is done with it.
"""

import numpy as np
from numba import njit

GONE, FREE, FLAT, CORNER = 0, 1, 2, 3
HOPELESS = 12  # tolerances: a key whose absence makes so much difference is not tried
NEAR = 3  # keys to either side that may move when one is taken out
FAINT = 1e-4  # how strongly keys are drawn to the curve itself, for pieces too short to tell


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
def curve_of(frames, made, length):  # type: ignore[no-untyped-def]
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
def grow(y, left, right, marks, limit, keyed):  # type: ignore[no-untyped-def]
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
def solve(y, frames, kinds, wished, pull):  # type: ignore[no-untyped-def]
    """(keys, 3) slope before, value, slope after of keys at `frames` by least squares over y between the first and the
    last of them; flat keys stay flat. Each is drawn to `wished` (keys, 3) with the weight `pull` (keys,).
    """
    count = frames.size
    index = np.full((count, 3), -1, np.int64)  # unknowns: slope before, value, slope after
    unknowns = 0
    for k in range(count):
        if kinds[k] == CORNER:
            index[k, 0] = unknowns
            unknowns += 1
        index[k, 1] = unknowns
        unknowns += 1
        if kinds[k] == FREE:
            index[k, 0] = index[k, 2] = unknowns
            unknowns += 1
        elif kinds[k] == CORNER:
            index[k, 2] = unknowns
            unknowns += 1
    band = np.zeros((unknowns, 6))  # row i holds entries i .. i + 5
    right = np.zeros(unknowns)
    for k in range(count):
        for which in range(3):
            i = index[k, which]
            if i >= 0:
                band[i, 0] += pull[k]
                right[i] += pull[k] * wished[k, which]
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
                right[slot[p]] += weight[p] * y[f]
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
            right[j] -= factor * right[i]
    found = np.empty(unknowns)
    for i in range(unknowns - 1, -1, -1):
        total = right[i]
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
def split(y, frames, made, limit, keyed):  # type: ignore[no-untyped-def]
    """Sets a key in each piece that is over the limit; how many there were."""
    added = 0
    for k in range(frames.size - 1):
        a, b = frames[k], frames[k + 1]
        worst, at = _worst(y, frames, made, k)
        if worst > limit:
            added += 1
            if b - a > 1:
                # A piece is cut where it is worst, but not so near its end that the rest gains nothing.
                margin = max(1, (b - a) // 5)
                keyed[min(max(at, a + margin), b - margin)] = True
    return added


@njit(cache=True)
def thin(y, frames, kinds, made, limit):  # type: ignore[no-untyped-def]
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
            tried = solve(y, there, kinds[some], made[some], pull)
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
