"""Keys: a curve as a few values with tangents; cubic between them.

Between two keys the curve is a cubic Hermite piece, or a Bezier piece where a tangent has a weight of its own. Before
the first and after the last key it is held.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from typing import Any

import numpy as np
from numpy.typing import NDArray

from dynaface.core.curves.channels import Floats
from dynaface.core.errors import InputError

KINDS = ("smooth", "flat", "linear", "stepped", "free")
"""smooth: through its neighbours without overshoot; flat: level; linear: straight to the neighbours; stepped: held until
the next key; free: slopes of its own, which may differ before and after."""
WEIGHT = 1 / 3  # of the way to the neighbour: where a Bezier piece is a Hermite one
MAX_KEYS = 20_000
DIGITS = 5


@dataclass(frozen=True)
class Key:
    """frame (whole or not), value, slopes a frame before and after it, and the weight of both tangents, 0.05..1; id: what
    a stored key is known by, "" for a new one; two keys are equal whatever their ids.
    """

    frame: float
    value: float
    before: float = 0.0
    after: float = 0.0
    kind: str = "smooth"
    weight_before: float = WEIGHT
    weight_after: float = WEIGHT
    id: str = field(default="", compare=False)

    def plain(self) -> list[Any]:
        """[frame, value, before, after, kind] and, where a tangent is weighted, its two weights."""
        row: list[Any] = [round(self.frame, 3), round(self.value, DIGITS), round(self.before, DIGITS + 1),
                          round(self.after, DIGITS + 1), self.kind]  # fmt: skip
        if (self.weight_before, self.weight_after) != (WEIGHT, WEIGHT):
            row += [round(self.weight_before, 3), round(self.weight_after, 3)]
        return row


Keys = tuple[Key, ...]


def key_table(keys: Keys) -> NDArray[np.float64]:
    """(keys, 7): frame, value, slopes and weights before and after, number of the kind; equal for equal keys."""
    rows = [(k.frame, k.value, k.before, k.after, k.weight_before, k.weight_after, KINDS.index(k.kind)) for k in keys]
    return np.array(rows, np.float64).reshape(-1, 7)


def parse_keys(rows: Any, where: str = "") -> Keys:
    """Keys from plain data, in order of frame; raises InputError with the key that is wrong."""
    if not isinstance(rows, Sequence) or isinstance(rows, str) or len(rows) > MAX_KEYS:
        raise InputError(f"keys must be a list of at most {MAX_KEYS}", where=where)
    out: list[Key] = []
    for number, row in enumerate(rows, 1):
        place = f"{where}, key {number}" if where else f"key {number}"
        if not isinstance(row, Sequence) or isinstance(row, str) or len(row) not in (5, 7):
            raise InputError("a key is [frame, value, slope before, slope after, kind]", where=place)
        numbers = [*row[:4], *row[5:]]
        if any(isinstance(v, bool) or not isinstance(v, int | float) or not abs(v) < 1e12 for v in numbers):
            raise InputError(f"a key has {row!r}; all but the kind must be numbers", where=place)
        if row[4] not in KINDS:
            raise InputError(f"a key's kind is {row[4]!r}; it must be one of {', '.join(KINDS)}", where=place)
        if out and row[0] <= out[-1].frame:
            raise InputError(f"a key at frame {row[0]} follows one at {out[-1].frame}", where=place)
        if abs(row[0]) > 1e8 or abs(row[1]) > 1e4 or any(not 0.05 <= r <= 1 for r in row[5:]):
            raise InputError(f"a key has {row!r}, which is beyond any limit", where=place)
        frame, value, before, after = map(float, row[:4])
        weight_before, weight_after = map(float, row[5:] or (WEIGHT, WEIGHT))
        out.append(Key(frame, value, before, after, row[4], weight_before, weight_after))
    return tuple(out)


def keys_of_table(table: Mapping[str, Sequence[Any]], where: str = "") -> Keys:
    """Keys of a table by id, each row as parse_keys takes it, under their ids and in order of frame; raises InputError."""
    rows = sorted(table.items(), key=lambda item: item[1][0])
    found = parse_keys([row for _, row in rows], where)
    return tuple(replace(key, id=name) for key, (name, _) in zip(found, rows, strict=True))


def slopes(keys: Keys) -> Keys:
    """The keys with the slopes that their kinds ask for; free ones keep theirs."""
    out = list(keys)
    for i, key in enumerate(keys):
        if key.kind == "free":
            continue
        left = _straight(keys[i - 1], key) if i else None
        right = _straight(key, keys[i + 1]) if i + 1 < len(keys) else None
        if key.kind == "linear":
            out[i] = replace(key, before=left or 0.0, after=right or 0.0)
        elif key.kind in ("flat", "stepped"):
            out[i] = replace(key, before=0.0, after=0.0)
        else:
            through = _through(left, right)
            out[i] = replace(key, before=through, after=through)
    return tuple(out)


def _straight(a: Key, b: Key) -> float:
    return (b.value - a.value) / (b.frame - a.frame)


def _through(left: float | None, right: float | None) -> float:
    """Harmonic mean of the slopes to both neighbours (Fritsch & Butland 1984); level at an extreme."""
    if left is None or right is None:
        return 0.0
    return 2 * left * right / (left + right) if left * right > 0 else 0.0


def evaluate_keys(keys: Keys, frames: int, first: int = 0) -> Floats:
    """(frames,) float32 of the curve at frames first .. first + frames - 1."""
    return keys_at(keys, np.arange(first, first + frames, dtype=np.float64)).astype(np.float32)


def keys_at(keys: Keys, at: NDArray[np.float64]) -> NDArray[np.float64]:
    """(n,) values of the curve at frames (n,), whole or between two."""
    if not keys:
        return np.zeros(len(at))
    keys = slopes(keys)
    times = np.array([k.frame for k in keys])
    out = np.empty(len(at))
    span = np.searchsorted(times, at, side="right") - 1
    out[span < 0] = keys[0].value
    out[span >= len(keys) - 1] = keys[-1].value
    inside = (span >= 0) & (span < len(keys) - 1)
    if inside.any():
        out[inside] = _pieces(keys, times, span[inside], at[inside])
    return out


def _pieces(keys: Keys, times: NDArray[np.float64], span: NDArray[np.intp], at: NDArray[np.float64]
            ) -> NDArray[np.float64]:  # fmt: skip
    value = np.array([k.value for k in keys])
    after, before = np.array([k.after for k in keys]), np.array([k.before for k in keys])
    weight_after, weight_before = np.array([k.weight_after for k in keys]), np.array([k.weight_before for k in keys])
    stepped = np.array([k.kind == "stepped" for k in keys])
    length = times[span + 1] - times[span]
    u = (at - times[span]) / length
    # Control points of the Bezier piece; weighted pieces bend time as well as value.
    c1, c2 = weight_after[span], 1 - weight_before[span + 1]
    p1 = value[span] + after[span] * c1 * length
    p2 = value[span + 1] - before[span + 1] * (1 - c2) * length
    weighted = (np.abs(c1 - WEIGHT) > 1e-9) | (np.abs(c2 - 1 + WEIGHT) > 1e-9)
    s = u.copy()
    if weighted.any():
        s[weighted] = _parameter(u[weighted], c1[weighted], c2[weighted])
    r = 1 - s
    out = r**3 * value[span] + 3 * r * r * s * p1 + 3 * r * s * s * p2 + s**3 * value[span + 1]
    return np.asarray(np.where(stepped[span], value[span], out))


def _parameter(u: NDArray[np.float64], c1: NDArray[np.float64], c2: NDArray[np.float64]) -> NDArray[np.float64]:
    """Where on the Bezier piece the time u lies, by bisection: time never runs backward for weights up to 1."""
    low, high = np.zeros_like(u), np.ones_like(u)
    for _ in range(40):
        s = 0.5 * (low + high)
        time = 3 * (1 - s) ** 2 * s * c1 + 3 * (1 - s) * s * s * c2 + s**3
        early = time < u
        low, high = np.where(early, s, low), np.where(early, high, s)
    return np.asarray(0.5 * (low + high))
