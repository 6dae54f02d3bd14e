"""Back through a cast sheet: the channels of a performance whose character shows what came back, as nearly as it can."""

from collections.abc import Collection, Mapping
from dataclasses import dataclass, replace

import numpy as np

from dynaface.core.body.rotations import Array
from dynaface.core.cast.apply import CastMotion, cast_channels
from dynaface.core.cast.character import Character
from dynaface.core.cast.sheet import CastSheet
from dynaface.core.curves.channels import Channels
from dynaface.core.curves.gaps import bridged
from dynaface.core.numeric.bounded import solve_bounded
from dynaface.core.returns.brought import Floats
from dynaface.core.shapes.standard import SHAPES

STEP = 0.05  # of a channel, by which it is tried what it does
FELT = 1e-3  # of a target, below which a channel does nothing to it
HELD = 2e-3  # how much a channel is held where it was, against a target: what nothing tells stays
ROUNDS = 5
FINE = 1e-3  # of a target, by which a round must make it better


@dataclass(frozen=True)
class Wanted:
    """weights: target -> (frames,); turns: joint -> (frames, 4), of eyes and of joints that the sheet turns. What is not named is to stay."""

    weights: Mapping[str, Floats]
    turns: Mapping[str, Array]

    @property
    def names(self) -> set[str]:
        """All that is wanted."""
        return {*self.weights, *self.turns}


@dataclass(frozen=True)
class Uncast:
    """channels: with those changed that had to be; left: target or joint -> how far it is at most from what was wanted (a weight, or about the
    part of a half turn).
    """

    channels: Channels
    left: Mapping[str, float]


def uncast(channels: Channels, wanted: Wanted, character: Character, sheet: CastSheet, frames: Collection[int]) -> Uncast:  # fmt: skip
    """Channels for which the sheet gives what is wanted at some frames, by least squares of what the character shows, each frame by itself (Gauss-Newton, weights
    in 0..1, held where they were by HELD). What no channel moves stays, and is said in `left`.
    """
    rows = np.array(sorted(frames), int)
    part = replace(channels, values=bridged(_whole(channels))[rows], names=_names(channels))
    was = cast_channels(part, character, sheet)
    names, meant = _meant(was, wanted, rows)
    told = [n for n, name in enumerate(names) if name[0] in wanted.names]
    now = _shown(was, names)
    moves, effect = _effects(part, now, names, told, character, sheet)
    if not moves:
        return Uncast(channels, _left(now, meant, names, wanted))
    columns = [part.names.index(m) for m in moves]
    start = part.values[:, columns].astype(np.float64)
    low, high = np.minimum(start, 0.0), np.maximum(start, 1.0)
    best, values, miss = np.abs(now - meant).max(), start, now - meant
    found, shown = part, now
    for _ in range(ROUNDS):
        tried = np.stack([_solved(effect[f], miss[f], values[f], start[f], low[f], high[f]) for f in range(len(rows))])
        trial = part.values.copy()
        trial[:, columns] = tried
        made = replace(part, values=trial)
        seen = _shown(cast_channels(made, character, sheet), names)
        worst = np.abs(seen - meant).max()
        if worst > best - FINE:
            if worst < best:
                found, shown = made, seen
            break
        best, values, miss, found, shown = worst, tried, seen - meant, made, seen
    out = _whole(channels)
    out[rows[:, None], columns] = found.values[:, columns]
    kept = [n for n, name in enumerate(part.names) if name in channels.names or np.abs(out[:, n]).max() > 0]
    result = replace(channels, names=tuple(part.names[n] for n in kept), values=out[:, kept])
    return Uncast(result, _left(shown, meant, names, wanted))


def _names(channels: Channels) -> tuple[str, ...]:
    return (*channels.names, *(s for s in SHAPES if s not in channels.names))


def _whole(channels: Channels) -> np.ndarray:
    """(frames, names) with all shapes, those that are not there at rest."""
    names = _names(channels)
    more = np.zeros((channels.frames, len(names) - len(channels.names)), np.float32)
    return np.concatenate([channels.values, more], axis=1)


Name = tuple[str, int]  # a target, or a joint with one of its three numbers


def _meant(was: CastMotion, wanted: Wanted, rows: np.ndarray) -> tuple[list[Name], Floats]:
    """(what is looked at, (frames, those) what is wanted of it)."""
    names: list[Name] = [(t, 0) for t in was.targets]
    out: list[np.ndarray] = []
    for n, target in enumerate(was.targets):
        own = wanted.weights.get(target)
        out.append(was.weights[:, n] if own is None else own[rows])
    for joint, turn in {**was.eyes, **was.turns}.items():
        meant = wanted.turns[joint][rows] if joint in wanted.turns else turn
        names += [(joint, axis) for axis in range(3)]
        out += list(_vector(meant).T)
    return names, np.stack([np.asarray(o, np.float64) for o in out], axis=1)


def _shown(made: CastMotion, names: list[Name]) -> Floats:
    columns: list[np.ndarray] = [made.weights]
    joints = {**made.eyes, **made.turns}
    columns += [_vector(joints[j]) for j in dict.fromkeys(n for n, _ in names[len(made.targets) :])]
    return np.concatenate(columns, axis=1).astype(np.float64)


def _vector(turn: Array) -> Floats:
    """(frames, 3) axis times the sine of half the angle."""
    return np.asarray(turn[:, :3] * np.sign(np.where(turn[:, 3:] == 0, 1, turn[:, 3:])))


def _effects(part: Channels, now: Floats, names: list[Name], told: list[int], character: Character, sheet: CastSheet) -> tuple[list[str], Floats]:  # fmt: skip
    """(channels that move any of what is wanted, (frames, names, those) what each does)."""
    moves, effects = [], []
    for shape in SHAPES:
        column = part.names.index(shape)
        way = np.where(part.values[:, column] > 1 - STEP, -STEP, STEP).astype(np.float32)
        values = part.values.copy()
        values[:, column] = np.nan_to_num(values[:, column]) + way
        does = (_shown(cast_channels(replace(part, values=values), character, sheet), names) - now) / way[:, None]
        if np.abs(does[:, told]).max(initial=0.0) > FELT:
            moves.append(shape)
            effects.append(does)
    return moves, np.stack(effects, axis=2) if effects else np.zeros((*now.shape, 0))


def _solved(effect: Floats, miss: Floats, at: Floats, start: Floats, low: Floats, high: Floats) -> Floats:
    """The channels of one frame by one step of Gauss-Newton."""
    a = effect.T @ effect + HELD * np.eye(len(at))
    b = effect.T @ (effect @ at - miss) + HELD * start
    return np.asarray(solve_bounded(np.ascontiguousarray(a), b, at.copy(), low, high))


def _left(shown: Floats, meant: Floats, names: list[Name], wanted: Wanted) -> dict[str, float]:
    out: dict[str, float] = {n: 1.0 for n in wanted.names if n not in {name for name, _ in names}}
    for column, (name, _) in enumerate(names):
        if name in wanted.names:
            out[name] = max(out.get(name, 0.0), float(np.abs(shown[:, column] - meant[:, column]).max()))
    return out
