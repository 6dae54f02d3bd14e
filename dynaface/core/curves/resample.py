"""Resampling by time stamps with a monotone cubic, so that nothing overshoots what was recorded.

Slopes: Fritsch & Butland 1984 (harmonic mean, as in PCHIP), unequal spacing. Gaps (NaN) are bridged up to a stated
length and stay gaps beyond it.
"""

import math

import numpy as np
from numba import njit

from dynaface.core.curves.channels import Floats, Times


@njit(cache=True)
def _slope(t0: float, v0: float, t1: float, v1: float, t2: float, v2: float) -> float:
    h0, h1 = t1 - t0, t2 - t1
    d0, d1 = (v1 - v0) / h0, (v2 - v1) / h1
    if d0 * d1 <= 0.0:
        return 0.0
    w0, w1 = 2.0 * h1 + h0, h1 + 2.0 * h0
    return (w0 + w1) / (w0 / d0 + w1 / d1)


@njit(cache=True)
def _resample_column(times, values, out_times, bridge, out):  # type: ignore[no-untyped-def]
    """One column onto out_times: `times`, `values` (rows,), `out` (frames,) written."""
    known_t = np.empty(times.size, np.float64)
    known_v = np.empty(times.size, np.float64)
    n = 0
    for i in range(times.size):
        if not math.isnan(values[i]):
            known_t[n] = times[i]
            known_v[n] = values[i]
            n += 1
    if n == 0:
        out[:] = np.nan
        return
    k = 0
    half = bridge * 0.5
    for f in range(out_times.size):
        t = out_times[f]
        while k + 1 < n and known_t[k + 1] <= t:
            k += 1
        if t < known_t[0]:
            out[f] = known_v[0] if known_t[0] - t <= half else np.nan
        elif k == n - 1:
            out[f] = known_v[k] if t - known_t[k] <= half else np.nan
        else:
            t0, t1 = known_t[k], known_t[k + 1]
            h = t1 - t0
            if h > bridge and t > t0 + 1e-9 and t < t1 - 1e-9:
                out[f] = np.nan
                continue
            v0, v1 = known_v[k], known_v[k + 1]
            m0 = _slope(known_t[k - 1], known_v[k - 1], t0, v0, t1, v1) if k > 0 else (v1 - v0) / h
            m1 = _slope(t0, v0, t1, v1, known_t[k + 2], known_v[k + 2]) if k + 2 < n else (v1 - v0) / h
            s = (t - t0) / h
            r = 1.0 - s
            out[f] = v0 * r * r * (1 + 2 * s) + v1 * s * s * (3 - 2 * s) + h * s * r * (m0 * r - m1 * s)


@njit(cache=True)
def _resample_whole(times, values, out_times, bridge, out):  # type: ignore[no-untyped-def]
    """All columns at once where no value is missing: the search and the weights are shared."""
    n, columns = values.shape
    k = 0
    half = bridge * 0.5
    for f in range(out_times.size):
        t = out_times[f]
        while k + 1 < n and times[k + 1] <= t:
            k += 1
        if t < times[0] or k == n - 1:
            near = abs(t - times[k]) <= half
            for c in range(columns):
                out[f, c] = values[k, c] if near else np.nan
            continue
        t0, t1 = times[k], times[k + 1]
        h = t1 - t0
        if h > bridge and t > t0 + 1e-9 and t < t1 - 1e-9:
            out[f, :] = np.nan
            continue
        s = (t - t0) / h
        r = 1.0 - s
        if s == 0.0:
            for c in range(columns):
                out[f, c] = values[k, c]
            continue
        a0, a1 = r * r * (1 + 2 * s), s * s * (3 - 2 * s)
        b0, b1 = h * s * r * r, -h * s * s * r
        before, after = k > 0, k + 2 < n
        for c in range(columns):
            v0, v1 = values[k, c], values[k + 1, c]
            line = (v1 - v0) / h
            m0 = _slope(times[k - 1], values[k - 1, c], t0, v0, t1, v1) if before else line
            m1 = _slope(t0, v0, t1, v1, times[k + 2], values[k + 2, c]) if after else line
            out[f, c] = a0 * v0 + a1 * v1 + b0 * m0 + b1 * m1


def resample(times: Times, values: Floats, out_times: Times, bridge: float) -> Floats:
    """values (rows, channels) at strictly rising times (rows,) onto out_times (frames,): (frames, channels).

    bridge: the longest stretch in seconds between known values that is filled; longer stretches become NaN.
    """
    out = np.empty((len(out_times), values.shape[1]), np.float32)
    if len(times) == 0:
        out[:] = np.nan
    elif not np.isnan(values).any():
        _resample_whole(times, values, out_times, bridge, out)
    else:
        for column in range(values.shape[1]):
            _resample_column(times, np.ascontiguousarray(values[:, column]), out_times, bridge, out[:, column])
    return out


def merge_doubled(times: Times, values: Floats, nearest: float) -> tuple[Times, Floats]:
    """times (rows,) and values (rows, channels): rows closer than `nearest` seconds to the row before are one
    frame: times and values are averaged, gaps aside."""
    if len(times) < 2:
        return times, values
    starts = np.concatenate([[True], np.diff(times) >= nearest])
    if starts.all():
        return times, values
    group = np.cumsum(starts) - 1
    count = np.bincount(group)
    merged_times = np.bincount(group, weights=times) / count
    known = ~np.isnan(values)
    sums = np.zeros((len(count), values.shape[1]), np.float64)
    np.add.at(sums, group, np.where(known, values, 0.0))
    counts = np.zeros_like(sums)
    np.add.at(counts, group, known)
    with np.errstate(invalid="ignore", divide="ignore"):
        merged = (sums / counts).astype(np.float32)
    return merged_times, merged
