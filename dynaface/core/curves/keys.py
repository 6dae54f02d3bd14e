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
MOST, MOST_FRAME, MOST_VALUE = 1e12, 1e8, 1e4  # of any number, of frames, of values
LEAST_WEIGHT, MOST_WEIGHT = 0.05, 1.0


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


def parse_keys(rows: Any, where: str = "", ids: Sequence[str] = ()) -> Keys:
    """Keys from plain data, in order of frame; ids: of each, where they are stored under some. Raises InputError with the key that is wrong."""
    if not isinstance(rows, Sequence) or isinstance(rows, str) or len(rows) > MAX_KEYS:
        raise InputError(f"keys must be a list of at most {MAX_KEYS}", where=where)
    if not _sound(rows):
        _refuse(rows, where)
    names = ids or [""] * len(rows)
    return tuple(_key(row, name) for row, name in zip(rows, names, strict=True))


def _key(row: Sequence[Any], name: str) -> Key:
    before, after = row[5:] or (WEIGHT, WEIGHT)
    return Key(float(row[0]), float(row[1]), float(row[2]), float(row[3]), row[4], float(before), float(after), name)


def _sound(rows: Sequence[Any]) -> bool:
    """Whether all rows can be keys: a layer has thousands, and nearly always they can."""
    if (
        {type(r) for r in rows} - {list, tuple}
        or {len(r) for r in rows} - {5, 7}
        or {str(r[4]) for r in rows} - set(KINDS)
    ):
        return False
    numbers = [v for r in rows for v in (*r[:4], *r[5:])]
    if {type(v) for v in numbers} - {int, float} or any(type(r[4]) is not str for r in rows):
        return False
    table = np.array([r[:4] for r in rows], np.float64).reshape(-1, 4)
    weights = np.array([v for r in rows for v in r[5:]], np.float64)
    within = (np.abs(table) < MOST).all() and (np.abs(table[:, :2]) <= (MOST_FRAME, MOST_VALUE)).all()
    return bool(
        within and (np.diff(table[:, 0]) > 0).all() and ((weights >= LEAST_WEIGHT) & (weights <= MOST_WEIGHT)).all()
    )


def _refuse(rows: Sequence[Any], where: str) -> None:
    """Raises InputError for the first row that can be no key."""
    last: float | None = None
    for number, row in enumerate(rows, 1):
        place = f"{where}, key {number}" if where else f"key {number}"
        if not isinstance(row, Sequence) or isinstance(row, str) or len(row) not in (5, 7):
            raise InputError("a key is [frame, value, slope before, slope after, kind]", where=place)
        numbers = [*row[:4], *row[5:]]
        if any(isinstance(v, bool) or not isinstance(v, int | float) or not abs(v) < MOST for v in numbers):
            raise InputError(f"a key has {row!r}; all but the kind must be numbers", where=place)
        if row[4] not in KINDS:
            raise InputError(f"a key's kind is {row[4]!r}; it must be one of {', '.join(KINDS)}", where=place)
        if last is not None and row[0] <= last:
            raise InputError(f"a key at frame {row[0]} follows one at {last}", where=place)
        if (
            abs(row[0]) > MOST_FRAME
            or abs(row[1]) > MOST_VALUE
            or any(not LEAST_WEIGHT <= r <= MOST_WEIGHT for r in row[5:])
        ):
            raise InputError(f"a key has {row!r}, which is beyond any limit", where=place)
        last = float(row[0])


def keys_of_table(table: Mapping[str, Sequence[Any]], where: str = "") -> Keys:
    """Keys of a table by id, each row as parse_keys takes it, under their ids and in order of frame; raises InputError."""
    rows = sorted(table.items(), key=lambda item: item[1][0])
    return parse_keys([row for _, row in rows], where, [name for name, _ in rows])


def slopes(keys: Keys) -> Keys:
    """The keys with the slopes that their kinds ask for; free ones keep theirs."""
    before, after = _slopes(key_table(keys))
    return tuple(
        key if key.kind == "free" else replace(key, before=float(b), after=float(a))
        for key, b, a in zip(keys, before, after, strict=True)
    )


def _slopes(table: NDArray[np.float64]) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """Slopes before and after each key (keys,) of a table (keys, 7). A smooth key has the harmonic mean of the slopes to both
    neighbours (Fritsch & Butland 1984); it is level at an extreme and at either end.
    """
    kind = table[:, 6]
    straight = np.diff(table[:, 1]) / np.diff(table[:, 0])
    left, right = np.concatenate([[0.0], straight]), np.concatenate([straight, [0.0]])
    rises = left * right > 0
    through = np.divide(2 * left * right, left + right, out=np.zeros(len(table)), where=rises)
    out = []
    for own, neighbour in ((table[:, 2], left), (table[:, 3], right)):
        level = np.where(
            kind == KINDS.index("smooth"), through, np.where(kind == KINDS.index("linear"), neighbour, 0.0)
        )
        out.append(np.where(kind == KINDS.index("free"), own, level))
    return out[0], out[1]


def evaluate_keys(keys: Keys, frames: int, first: int = 0) -> Floats:
    """(frames,) float32 of the curve at frames first .. first + frames - 1."""
    return keys_at(keys, np.arange(first, first + frames, dtype=np.float64)).astype(np.float32)


def keys_at(keys: Keys, at: NDArray[np.float64]) -> NDArray[np.float64]:
    """(n,) values of the curve at frames (n,), whole or between two."""
    if not keys:
        return np.zeros(len(at))
    table = key_table(keys)
    times = table[:, 0]
    if len(keys) == 1:
        return np.full(len(at), keys[0].value)
    span = np.clip(np.searchsorted(times, at, side="right") - 1, 0, len(keys) - 2)
    out = _pieces(table, span, at)
    out[at < times[0]] = keys[0].value
    out[at >= times[-1]] = keys[-1].value
    return out


def _pieces(table: NDArray[np.float64], span: NDArray[np.intp], at: NDArray[np.float64]) -> NDArray[np.float64]:
    """Values at frames (n,), each in the piece behind the key of number span (n,)."""
    times, value = table[:, 0], table[:, 1]
    before, after = _slopes(table)
    length = np.diff(times)
    # Control points of each Bezier piece; weighted pieces bend time as well as value.
    c1, c2 = table[:-1, 5], 1 - table[1:, 4]
    p0, p3 = value[:-1], value[1:]
    p1, p2 = p0 + after[:-1] * c1 * length, p3 - before[1:] * (1 - c2) * length
    s = (at - times[span]) / length[span]
    weighted = (np.abs(c1 - WEIGHT) > 1e-9) | (np.abs(c2 - 1 + WEIGHT) > 1e-9)
    if weighted.any():
        bent = weighted[span]
        s[bent] = _parameter(s[bent], c1[span[bent]], c2[span[bent]])
    stepped = table[:-1, 6] == KINDS.index("stepped")
    # As a polynomial of the time in the piece: a stepped piece has its first value alone.
    a1, a2, a3 = (np.where(stepped, 0.0, a) for a in (3 * (p1 - p0), 3 * (p0 - 2 * p1 + p2), p3 - p0 + 3 * (p1 - p2)))
    return np.asarray(((a3[span] * s + a2[span]) * s + a1[span]) * s + p0[span])


def _parameter(u: NDArray[np.float64], c1: NDArray[np.float64], c2: NDArray[np.float64]) -> NDArray[np.float64]:
    """Where on the Bezier piece the time u lies, by bisection: time never runs backward for weights up to 1."""
    low, high = np.zeros_like(u), np.ones_like(u)
    for _ in range(40):
        s = 0.5 * (low + high)
        time = 3 * (1 - s) ** 2 * s * c1 + 3 * (1 - s) * s * s * c2 + s**3
        early = time < u
        low, high = np.where(early, s, low), np.where(early, high, s)
    return np.asarray(0.5 * (low + high))
