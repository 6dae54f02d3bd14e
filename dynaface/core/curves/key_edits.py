"""What can be done to keys. Each edit: keys in, keys out, in order of frame and one a frame at most."""

from collections.abc import Collection, Sequence
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from dynaface.core import checks
from dynaface.core.curves.channels import Floats
from dynaface.core.curves.keys import KINDS, Key, Keys, evaluate_keys, keys_at, slopes
from dynaface.core.curves.reduce import TOLERANCE, reduce

Chosen = Collection[int]
"""Numbers of the keys that an edit is about, counted from 0."""


def ordered(keys: Sequence[Key], chosen: Chosen = ()) -> Keys:
    """In order of frame; of two at one frame the chosen one stays, else the later one in the list."""
    best: dict[float, tuple[bool, int, Key]] = {}
    for number, key in enumerate(keys):
        mine = (number in chosen, number, key)
        frame = round(key.frame, 3)
        if frame not in best or mine[:2] > best[frame][:2]:
            best[frame] = mine
    return tuple(entry[2] for _, entry in sorted(best.items()))


def move(keys: Keys, chosen: Chosen, frames: float, value: float, snap: bool = True) -> Keys:
    """The chosen keys later by `frames` and higher by `value`; on whole frames with `snap`."""
    out = list(keys)
    for i in chosen:
        at = keys[i].frame + frames
        out[i] = replace(keys[i], frame=float(round(at)) if snap else at, value=keys[i].value + value)
    return ordered(out, chosen)


def scale(keys: Keys, chosen: Chosen, about: float, time: float, level: float, value: float, snap: bool = True) -> Keys:
    """Distances of the chosen keys from the frame `about` times `time`, from the value `level` times `value`."""
    checks.within("time", time, 0.01, 100)
    out = list(keys)
    for i in chosen:
        key = keys[i]
        at = about + (key.frame - about) * time
        out[i] = replace(key, frame=float(round(at)) if snap else at, value=level + (key.value - level) * value,
                         before=key.before * value / time, after=key.after * value / time)  # fmt: skip
    return ordered(out, chosen)


def insert(keys: Keys, frame: float, value: float | None = None) -> Keys:
    """A key at a frame; without a value it lies on the curve, with the curve's slope, and changes nothing else much."""
    if value is None:
        before, here, after = keys_at(keys, np.array([frame - 1, frame, frame + 1])).tolist()
        slope = (after - before) / 2
        return ordered([*keys, Key(frame, here, slope, slope, "free")], {len(keys)})
    return ordered([*keys, Key(frame, value)], {len(keys)})


def delete(keys: Keys, chosen: Chosen, refit: bool) -> Keys:
    """Without the chosen keys. `refit`: slopes of the keys beside each hole are fitted to the curve that was there."""
    kept = [(i, k) for i, k in enumerate(slopes(keys)) if i not in set(chosen)]
    out = [k for _, k in kept]
    if not refit:
        return tuple(keys[i] for i, _ in kept)
    for n in range(len(kept) - 1):
        if kept[n + 1][0] - kept[n][0] > 1:
            out[n], out[n + 1] = _fitted(keys, out[n], out[n + 1])
    return tuple(out)


def _fitted(keys: Keys, a: Key, b: Key) -> tuple[Key, Key]:
    """Slopes after a and before b by least squares against the old curve between them."""
    first, last = int(np.ceil(a.frame)), int(np.floor(b.frame))
    length = b.frame - a.frame
    if last - first < 2:
        return a, b
    old = evaluate_keys(keys, last - first + 1, first).astype(np.float64)
    s = (np.arange(first, last + 1) - a.frame) / length
    r = 1 - s
    rest = old - a.value * r * r * (1 + 2 * s) - b.value * s * s * (3 - 2 * s)
    basis = np.stack([length * s * r * r, -length * s * s * r], axis=1)
    after, before = np.linalg.lstsq(basis, rest, rcond=None)[0]
    return replace(a, after=float(after), kind="free"), replace(b, before=float(before), kind="free")


def tangents(keys: Keys, chosen: Chosen, kind: str, weight: float | None = None) -> Keys:
    """The chosen keys with another kind of tangent; `weight`: of both tangents, 0.05..1 of the way to the neighbour."""
    checks.one_of("kind", kind, KINDS)
    settled = slopes(keys)
    out = list(keys)
    for i in chosen:
        # A key set free keeps the slopes that it had.
        out[i] = replace(settled[i] if kind == "free" else keys[i], kind=kind)
        if weight is not None:
            weight = checks.within("weight", weight, 0.05, 1)
            out[i] = replace(out[i], weight_before=weight, weight_after=weight)
    return tuple(out)


def slope(keys: Keys, chosen: Chosen, before: float | None, after: float | None) -> Keys:
    """The chosen keys with slopes of their own, a frame."""
    settled = slopes(keys)
    out = list(keys)
    for i in chosen:
        out[i] = replace(settled[i], kind="free", before=settled[i].before if before is None else before,
                         after=settled[i].after if after is None else after)  # fmt: skip
    return tuple(out)


def values(keys: Keys, chosen: Chosen, value: float) -> Keys:
    """The chosen keys at a typed value."""
    out = list(keys)
    for i in chosen:
        out[i] = replace(keys[i], value=value)
    return tuple(out)


def paste(keys: Keys, copied: Keys, frame: float, value: float) -> Keys:
    """Copied keys put in so that the first lies at `frame`, higher by `value`; what lay between them goes."""
    if not copied:
        return keys
    by = frame - copied[0].frame
    new = [replace(k, frame=k.frame + by, value=k.value + value) for k in copied]
    kept = [k for k in keys if not new[0].frame <= k.frame <= new[-1].frame]
    return ordered([*kept, *new])


def reshape(keys: Keys, first: int, curve: Floats, tolerance: float = TOLERANCE) -> Keys:
    """The curve from frame `first` on is `curve` (frames,): its keys within the tolerance take the place of those there."""
    last = first + len(curve) - 1
    new = [replace(k, frame=k.frame + first) for k in reduce(curve, 60.0, tolerance).keys]
    kept = [k for k in slopes(keys) if not first <= k.frame <= last]
    # Where the old curve joins the new one, each side keeps its own slope.
    return ordered([replace(k, kind="free") if k.kind == "smooth" else k for k in kept] + new)


def brushed(curve: Floats, centre: float, size: float, amount: float, way: str, value: float = 0.0) -> Floats:
    """(frames,) with a soft stretch about `centre`, `size` frames to either side, smoothed, or pulled toward a value."""
    frames = np.arange(len(curve))
    part = np.clip(1 - np.abs(frames - centre) / max(size, 1), 0, 1)
    weight = checks.within("amount", amount, 0, 1) * part * part * (3 - 2 * part)
    target: NDArray[np.float64] | float = value
    if checks.one_of("way", way, ("smooth", "pull")) == "smooth":
        half = max(1, int(size / 4))
        box = np.ones(2 * half + 1) / (2 * half + 1)
        target = np.convolve(np.pad(curve, half, mode="edge"), box, mode="valid")
    return (curve + (target - curve) * weight).astype(np.float32)
