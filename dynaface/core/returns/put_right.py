"""What other programs change without meaning to, noticed and put right: names, percent, units, the axis that points up, frames before."""

from collections.abc import Collection, Sequence
from dataclasses import dataclass, replace
from fractions import Fraction

import numpy as np

from dynaface.core.body.rotations import Array, about, inverse, multiply, rotate
from dynaface.core.clock.rates import format_rate
from dynaface.core.errors import InputError
from dynaface.core.returns.brought import Brought, Floats, neighbours, turned_by
from dynaface.core.returns.naming import named_alike

HUNDRED = 20.0  # times as large as what was handed over: weights are in percent
LIKELY = 0.02  # of a scale that is what a unit makes
UNITS = {100.0: "centimetres instead of metres", 0.01: "metres instead of centimetres", 1000.0: "millimetres instead of metres",
         1 / 0.0254: "inches instead of metres", 0.0254: "metres instead of inches"}  # fmt: skip
Lying = tuple[str, float]
LYING: tuple[Lying, ...] = tuple((axis, degrees) for axis in "xzy" for degrees in (-90.0, 90.0, 180.0))
"""(axis, degrees) by which a scene with another axis up is turned."""
STRAIGHT = 5.0  # degrees from a turn that an axis makes
SEEN, COLUMNS, MOMENTS = 300, 64, 6000  # frames an edit may be shifted by, and how much is looked at to find it
SAME, MOST_SAME = 2e-3, 0.7  # of a value; of the frames
SLOWEST, NEAR = 1e-4, 0.2  # of a value a frame that counts as moving; frames apart that count as none


@dataclass(frozen=True)
class Righted:
    """edited: under the names and in the unit of what was handed over; base: what was handed over, as far as it came back; at: (frames,) of the edited
    file, the frame of what was handed over that each is; said: what was put right, in words; unknown: names that were not handed over;
    absent: names that did not come back.
    """

    edited: Brought
    base: Brought
    at: Floats
    said: tuple[str, ...]
    unknown: tuple[str, ...] = ()
    absent: tuple[str, ...] = ()


def put_right(edited: Brought, base: Brought) -> Righted:
    """An edited file in terms of what was handed over; raises InputError where they have nothing in common."""
    if edited.face != base.face:
        kinds = ("a character in motion", "a table of curves")
        raise InputError(f"this is {kinds[edited.face]}, and what was handed over is {kinds[base.face]}", hint="Compare it with the file of its own kind")  # fmt: skip
    said: list[str] = []
    if edited.world != base.world:
        edited, base = edited.in_world(), base.in_world()
    names, noticed = named_alike(edited.names, base.names)
    said += noticed
    if not names:
        raise InputError(
            "no name in this file is one of what was handed over",
            hint=f"It has {', '.join(edited.names[:6]) or 'no curves and no joints'}; choose what it belongs to",
        )
    unknown = tuple(n for n in edited.names if n not in names)
    absent = tuple(n for n in base.names if n not in set(names.values()))
    edited, base = edited.renamed(names), base.only(names.values())
    if list(edited.turns) != list(base.turns):
        said.append("joints stand in another order")
    edited = _of_one(edited, base, said)
    at = _moments(edited, base, said)
    was = base.at(at)
    edited = _upright(_sized(edited, was, said), was, said)
    shift = _shifted(edited, base, at)
    if shift:
        said.append(_shift_words(edited, shift))
        at = at - shift * float(base.rate / edited.rate)
    return Righted(edited, base, at, tuple(said), unknown, absent)


def _of_one(edited: Brought, base: Brought, said: list[str]) -> Brought:
    """Weights of 0..100 as 0..1. Channels of a face have their own reading."""
    if edited.face:
        return edited
    shares = []
    for name in edited.curves.keys() & base.curves.keys():
        one, other = np.abs(edited.curves[name]).max(), np.abs(base.curves[name]).max()
        if other > 0.02:
            shares.append(one / other)
    if not shares or np.median(shares) < HUNDRED:
        return edited
    said.append("weights go to 100: taken as percent")
    return replace(edited, curves={n: v / 100 for n, v in edited.curves.items()})


def _moments(edited: Brought, base: Brought, said: list[str]) -> Floats:
    """(frames,) of the edited file, each as a frame of what was handed over."""
    frames = np.arange(edited.frames, dtype=np.float64)
    if edited.rate == base.rate:
        return frames
    was, now = format_rate(base.rate), format_rate(edited.rate)
    if abs(edited.frames - base.frames) <= 1:
        said.append(f"{now} frames a second instead of {was}, and as many frames: taken frame by frame")
        return frames
    said.append(f"{now} frames a second instead of {was}: compared at its own frames")
    return np.asarray(frames * float(base.rate / Fraction(edited.rate)))


def _sized(edited: Brought, base: Brought, said: list[str]) -> Brought:
    """Places in the unit of what was handed over: told by how long bones are."""
    shares = []
    for name in edited.places.keys() & base.places.keys() - base.tops - edited.tops:
        one, other = (float(np.median(np.linalg.norm(b.places[name], axis=-1))) for b in (edited, base))
        if other > 1e-6:
            shares.append(one / other)
    scale = float(np.median(shares)) if shares else 1.0
    if abs(scale - 1) <= LIKELY or scale <= 0:
        return edited
    nearest = min(UNITS, key=lambda u: abs(np.log(scale / u)))
    known = abs(scale / nearest - 1) <= LIKELY
    scale = nearest if known else scale
    said.append(f"lengths are in {UNITS[nearest]}" if known else f"the skeleton is {scale:.3g} times as large")
    return replace(edited, places={n: p / scale for n, p in edited.places.items()})


def _upright(edited: Brought, base: Brought, said: list[str]) -> Brought:
    """With the axis up that was up: told by where bones point, and by how the topmost joints are turned most of the time."""
    if (lying := _bones_turned(edited, base)) is not None:
        stand = _stood(lying, said)
        return replace(
            edited,
            turns={n: multiply(multiply(inverse(stand), q), stand) for n, q in edited.turns.items()},
            places={n: _rotated(inverse(stand), p) for n, p in edited.places.items()},
        )
    tops = [n for n in edited.tops & base.tops if n in edited.turns and n in base.turns]
    for name in tops:
        lying = _axis(multiply(edited.turns[name], inverse(base.turns[name])))
        if lying is None:
            continue
        back = inverse(_stood(lying, said))
        return replace(
            edited,
            turns={n: multiply(back, q) if n in edited.tops else q for n, q in edited.turns.items()},
            places={n: _rotated(back, p) if n in edited.tops else p for n, p in edited.places.items()},
        )
    return edited


def _stood(lying: Lying, said: list[str]) -> Array:
    axis, degrees = lying
    said.append(f"everything is turned by {degrees:g} degrees about {axis}: stood up again")
    return about(axis, degrees)


def _rotated(turn: Array, places: Array) -> Array:
    return rotate(np.broadcast_to(turn, (*places.shape[:-1], 4)), places)


def _bones_turned(edited: Brought, base: Brought) -> Lying | None:
    """(axis, degrees) by which all bones point elsewhere than those that were handed over: in files whose joints have the world's axes."""
    names = [n for n in edited.places if n in base.places and n not in base.tops | edited.tops]
    pairs = [(edited.places[n][0], base.places[n][0]) for n in names]
    pairs = [(a, b) for a, b in pairs if min(np.linalg.norm(a), np.linalg.norm(b)) > 1e-6]
    if len(pairs) < 3:
        return None
    one, other = (np.array(v) / np.linalg.norm(v, axis=1, keepdims=True) for v in zip(*pairs, strict=True))
    best, found = float(np.mean((one * other).sum(axis=1))), None
    for lying in LYING:
        fit = float(np.mean((one * _rotated(about(*lying), other)).sum(axis=1)))
        if fit > max(best + 0.1, 0.99):
            best, found = fit, lying
    return found


def _axis(turns: Array) -> Lying | None:
    """(axis, degrees) of the quarter or half turn that most of these (frames, 4) are; None for none."""
    for lying in LYING:
        if np.mean(turned_by(np.broadcast_to(about(*lying), turns.shape), turns) < STRAIGHT) > MOST_SAME:
            return lying
    return None


def _shifted(edited: Brought, base: Brought, at: Floats) -> int:
    """How many frames of the edited file stand before what was the first; negative where it lacks some. Told by frames that are the same."""
    step = float(at[1] - at[0]) if len(at) > 1 else 1.0
    names = _telling(edited, base)
    if not names:
        return 0
    tops = edited.tops & base.tops
    one, was = _table(edited, names, tops), _table(base, names, tops)
    speed = np.abs(np.gradient(one, axis=0)) if edited.frames > 1 else np.zeros_like(one)
    rows, columns = np.nonzero(speed > SLOWEST)
    if not len(rows):
        return 0
    looked = np.linspace(0, len(rows) - 1, MOMENTS).round().astype(int)
    rows, columns = rows[looked], columns[looked]
    other = round(base.frames / step)
    reach = min(SEEN, edited.frames // 2) + abs(edited.frames - other)

    def apart(shift: int) -> float:
        """How far the files are from each other while something moves, in frames; half of it may be edited."""
        moments = (rows - shift) * step
        inside = (moments >= -1e-6) & (moments <= base.frames - 1 + 1e-6)
        if inside.sum() < len(rows) // 2:
            return np.inf
        at = moments[inside]
        (low, high, part), own = neighbours(at, base.frames), columns[inside]
        meant = was[low, own] * (1 - part) + was[high, own] * part
        return float(np.median(np.abs(one[rows[inside], own] - meant) / speed[rows[inside], own]))

    as_it_is = apart(0)
    if as_it_is < NEAR:
        return 0
    found = {shift: apart(shift) for shift in range(-reach, reach + 1)}
    best = min(found, key=lambda s: (found[s], abs(s)))
    return best if found[best] < min(NEAR, as_it_is / 2) else 0


def _telling(edited: Brought, base: Brought) -> list[str]:
    """Of what both have, what moves the most."""
    moved: dict[str, float] = {}
    for name in edited.curves.keys() & base.curves.keys():
        moved[name] = float(np.nan_to_num(np.nanstd(base.curves[name])) if np.isfinite(base.curves[name]).any() else 0)
    for name in edited.turns.keys() & base.turns.keys():
        moved[name] = float(np.std(np.abs(base.turns[name]), axis=0).max())
    for name in edited.tops & base.tops:
        moved[name] = max(moved.get(name, 0.0), float(np.std(base.places[name], axis=0).max()))
    moving = [n for n, by in moved.items() if by > SAME]
    return sorted(moving, key=lambda n: (-moved[n], n))[:COLUMNS]


def _table(brought: Brought, names: Sequence[str], tops: Collection[str]) -> Floats:
    """(frames, names) values that are equal where the names say the same."""
    columns = []
    for name in names:
        if name in brought.turns:
            # Which way round a quaternion stands is of no matter.
            q = brought.turns[name]
            columns += [np.abs(q[:, 3]), np.abs(q[:, 0])]
            if name in tops:
                columns += list(brought.places[name].T)
        else:
            columns.append(np.nan_to_num(brought.curves[name], nan=-9.0))
    return np.stack(columns, axis=1)


def _shift_words(edited: Brought, shift: int) -> str:
    if shift < 0:
        return f"it begins {-shift} frames later than what was handed over: those frames stay as they are"
    still = all(float(np.abs(np.nan_to_num(v[0])).max()) < SAME for v in edited.curves.values())
    if shift == 1 and still:
        return "a frame of the rest pose stands before the first: taken off"
    return f"{shift} frames stand before what was the first: taken off"
