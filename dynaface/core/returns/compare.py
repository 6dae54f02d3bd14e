"""What is different in a file that came back."""

from collections.abc import Iterable
from dataclasses import dataclass, replace
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from dynaface.core.body.rotations import Array, continuous, inverse, multiply, slerp
from dynaface.core.curves.known_runs import runs
from dynaface.core.returns.brought import Brought, Floats, neighbours, turned_by
from dynaface.core.returns.put_right import Righted
from dynaface.core.shapes.standard import full_range

Part = Literal["weight", "channel", "turn", "place"]
ALLOWED = {"weight": 1e-3, "channel": 1e-3, "turn": 0.05, "place": 2e-4}
"""By how much values may differ and be the same: of a weight, of a channel's full range, degrees, metres."""
JOINED = 3  # frames of no difference within one


@dataclass(frozen=True)
class Difference:
    """One weight, channel, turn or place of a joint that is not what it was.

    of: its name; by: (frames,), (frames, 4) or (frames, 3) of the edited file: what is added to, or turns, what was handed over; apart: (frames,) how
    far that is, in its unit (degrees, metres); filled: (frames,) values where there was a gap, NaN elsewhere; runs: (first, last) frames of the edited file.
    """

    part: Part
    of: str
    by: Floats
    apart: Floats
    runs: tuple[tuple[int, int], ...]
    filled: Floats | None = None

    @property
    def most(self) -> float:
        """How far it is at most, in its unit."""
        return float(max(self.apart[a : b + 1].max() for a, b in self.runs))

    def at(self, frames: Floats) -> Floats:
        """(n, ...) by how much it is different at frames, whole or between two; the nearest outside."""
        low, high, part = neighbours(frames, len(self.by))
        if self.part == "turn":
            return slerp(self.by[low], self.by[high], part)
        share = part.reshape(-1, *(1,) * (self.by.ndim - 1))
        return np.asarray(self.by[low] * (1 - share) + self.by[high] * share)


def differences(righted: Righted, tolerance: float = 0.0, apart_from: Iterable[int] = ()) -> list[Difference]:
    """All that differs by more than ALLOWED and twice a tolerance of few keys. apart_from: frames of what was handed over that are no part of the
    work (a rest frame that was put before it).
    """
    edited, base = righted.edited, righted.base
    inside = (righted.at > -0.5) & (righted.at < base.frames - 0.5)
    for frame in apart_from:
        inside &= np.abs(righted.at - frame) > 0.5
    was = base.at(righted.at)
    out = [_of_curve(n, edited, was, inside, tolerance) for n in edited.curves if n in was.curves]
    for joint in edited.turns:
        out.append(_of_turn(joint, edited, was, inside, tolerance))
        out.append(_of_place(joint, edited, was, inside, tolerance))
    return [d for d in out if d is not None]


def _of_curve(name: str, edited: Brought, was: Brought, inside: NDArray[np.bool_], tolerance: float) -> Difference | None:  # fmt: skip
    one, other = edited.curves[name], was.curves[name]
    full = full_range(name) if edited.face else 1.0
    gap = np.isnan(other) & np.isfinite(one)
    by = np.where(np.isfinite(one) & np.isfinite(other), np.nan_to_num(one) - np.nan_to_num(other), 0.0)
    apart = np.where(gap, full, np.abs(by))
    filled = np.where(gap, one, np.nan) if gap.any() else None
    part: Part = "channel" if edited.face else "weight"
    return _where(Difference(part, name, by, apart, (), filled), inside & (apart > ALLOWED[part] * full + 2 * tolerance * full))  # fmt: skip


def _of_turn(joint: str, edited: Brought, was: Brought, inside: NDArray[np.bool_], tolerance: float) -> Difference | None:  # fmt: skip
    by: Array = multiply(inverse(was.turns[joint]), edited.turns[joint])
    by = continuous(by * np.where(by[:1, 3:] < 0, -1, 1))
    apart = turned_by(was.turns[joint], edited.turns[joint])
    return _where(Difference("turn", joint, by, apart, ()), inside & (apart > ALLOWED["turn"] + np.degrees(4 * tolerance)))  # fmt: skip


def _of_place(joint: str, edited: Brought, was: Brought, inside: NDArray[np.bool_], tolerance: float) -> Difference | None:  # fmt: skip
    by = edited.places[joint] - was.places[joint]
    if joint not in was.tops:
        by = by - np.median(by, axis=0)  # how long a bone is, is no motion
    apart = np.linalg.norm(by, axis=-1)
    return _where(Difference("place", joint, by, apart, ()), inside & (apart > ALLOWED["place"] + 2 * tolerance))


def _where(found: Difference, flags: NDArray[np.bool_]) -> Difference | None:
    """The difference with its runs, None where it has none."""
    runs = runs_of(flags)
    return replace(found, runs=runs) if runs else None


def runs_of(flags: NDArray[np.bool_]) -> tuple[tuple[int, int], ...]:
    """(first, last) of each stretch of flags (frames,), those with at most JOINED frames between them as one."""
    out: list[tuple[int, int]] = []
    for first, stop in runs(flags):
        near = out and first - out[-1][1] <= JOINED + 1
        out.append((out.pop()[0] if near else first, stop - 1))
    return tuple(out)
