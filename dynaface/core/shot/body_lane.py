"""Lanes of bodies: what the bodies of a role's placements give on its character, cross-faded, each where the one before it stood if asked."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from fractions import Fraction

import numpy as np
from numpy.typing import NDArray

from dynaface.core.body.rotations import Array, slerp
from dynaface.core.body.skeleton import Skeleton
from dynaface.core.contact.find_feet import FootContacts, marked, spans_of
from dynaface.core.contact.touching import Touching, none_touching
from dynaface.core.numeric.ease import eased
from dynaface.core.perform.join import RetargetedBody, still_body, turns_of_local, with_feet
from dynaface.core.shot.lane import share_of
from dynaface.core.shot.placed_body import PlacedBody
from dynaface.core.shot.standing_place import moved_onto

COUNTS = 0.5  # of a placement's share, from which on its feet stand


@dataclass(frozen=True)
class LaidBodies:
    """body: at the shot's frames; stands: when its feet do, in those."""

    body: RetargetedBody
    stands: tuple[FootContacts, ...] = ()


def lay_bodies(placed: Sequence[PlacedBody], target: Skeleton, rate: Fraction, frames: int) -> LaidBodies:
    """A role's placed bodies at the shot's frames.

    Where none is, the character stands as the one before left it and goes over to the one that comes; fades lead from and to that. Two
    bodies of a lane that overlap go over into each other, higher lanes lie over lower ones.
    """
    shown = sorted((p for p in placed if not p.placement.mute), key=lambda p: (p.placement.lane, p.placement.start))
    if not shown:
        return LaidBodies(still_body(target, frames))
    shown = _following(shown, target)
    local, root = _beneath(shown, rate, frames)
    blended = np.ones(frames, bool)
    turns = np.zeros_like(local)
    stood: list[tuple[PlacedBody, Array]] = []
    for one in shown:
        own = slice(one.low, one.low + one.body.frames)
        at = np.arange(own.start, own.stop) / float(rate)
        share = share_of(one.placement, [p.placement for p in shown], at, frames, one.low)
        whole, part = share >= 1, (share > 0) & (share < 1)
        local[own][whole], root[own][whole] = one.body.local[whole], one.body.root[whole]
        turns[own][whole] = one.body.turns[whole]
        local[own][part] = slerp(local[own][part], one.body.local[part], share[part][:, None])
        root[own][part] += (one.body.root[part] - root[own][part]) * share[part][:, None]
        blended[own] = (blended[own] & ~whole) | part
        stood.append((one, share))
    turns[blended] = turns_of_local(target, local[blended])
    moving = frozenset().union(*(p.body.moving for p in shown))
    top = next((p.body.root_joint for p in shown if p.body.root_joint), "")
    made = RetargetedBody(turns, local, root, moving, top, _touching(stood, frames))
    return LaidBodies(made, _stands(stood, frames))


def held_bodies(laid: LaidBodies, target: Skeleton, rate: Fraction) -> RetargetedBody:
    """The bodies with their feet standing where they are to."""
    return with_feet(laid.body, target, laid.stands, rate)


def _following(shown: Sequence[PlacedBody], target: Skeleton) -> list[PlacedBody]:
    """Those that follow moved to where the one before them on their lane stands at that moment."""
    out: list[PlacedBody] = []
    for one in shown:
        before = [p for p in out if p.placement.lane == one.placement.lane and p.placement.start < one.placement.start]
        if one.follows and before:
            last = max(before, key=lambda p: p.placement.start)
            number = one.low - last.low
            overlaps = 0 <= number < last.body.frames and one.body.frames > 0
            onto = last.body.frame(number) if overlaps else last.end
            one = one.onto(moved_onto(one.body.frame(0) if overlaps else one.begin, onto, target), target)
        out.append(one)
    return out


def _beneath(shown: Sequence[PlacedBody], rate: Fraction, frames: int) -> tuple[Array, Array]:
    """(local, root) of how a character stands where no body is, and what fades lead from and to."""
    runs: list[list[PlacedBody]] = []
    for one in sorted(shown, key=lambda p: (p.placement.start, p.placement.lane)):
        if runs and one.placement.start <= max(p.placement.stop for p in runs[-1]):
            runs[-1].append(one)
        else:
            runs.append([one])
    firsts, lasts = [run[0] for run in runs], [max(run, key=lambda p: p.placement.stop) for run in runs]
    moments, poses = [float(firsts[0].placement.start)], [firsts[0].begin]
    for last, comes in zip(lasts, firsts[1:], strict=False):
        moments += [float(last.placement.stop), float(comes.placement.start)]
        poses += _gap(last, comes)
    moments.append(float(lasts[-1].placement.stop))
    poses.append(lasts[-1].end)
    at = np.clip(np.arange(frames) / float(rate), moments[0], moments[-1])
    after = np.clip(np.searchsorted(moments, at, "right"), 1, len(moments) - 1)
    span = np.maximum(np.diff(moments), 1e-9)[after - 1]
    part = eased((at - np.asarray(moments)[after - 1]) / span)
    locals_, roots = (np.concatenate([getattr(p, name) for p in poses]) for name in ("local", "root"))
    local = slerp(locals_[after - 1], locals_[after], part[:, None])
    return local, roots[after - 1] + (roots[after] - roots[after - 1]) * part[:, None]


def _gap(leaves: PlacedBody, comes: PlacedBody) -> list[RetargetedBody]:
    """How a character stands at both ends of a time without bodies: what fades is not seen, so that it stands as the other already."""
    fades = leaves.placement.fade_out > 0, comes.placement.fade_in > 0
    if all(fades):
        return [_between(leaves.end, comes.begin, 0.5)] * 2
    if any(fades):
        return [comes.begin if fades[0] else leaves.end] * 2
    return [leaves.end, comes.begin]


def _between(one: RetargetedBody, other: RetargetedBody, part: float) -> RetargetedBody:
    return replace(one, local=slerp(one.local, other.local, part), root=one.root + (other.root - one.root) * part)


def _touching(stood: Sequence[tuple[PlacedBody, Array]], frames: int) -> Touching | None:
    """What hands touch: by whichever placement counts most there."""
    if all(one.body.touching is None for one, _ in stood):
        return None
    out = none_touching(frames)
    for one, share in stood:
        own = np.flatnonzero(share >= COUNTS)
        out.put(one.low + own, one.body.touching or none_touching(one.body.frames), own)
    return out


def _stands(stood: Sequence[tuple[PlacedBody, Array]], frames: int) -> tuple[FootContacts, ...]:
    """When feet stand: by whichever placement counts most there; on the ground of the first that has them stand."""
    marks: dict[str, dict[str, NDArray[np.bool_]]] = {}
    floor: float | None = None
    for one, share in stood:
        rows = one.low + np.flatnonzero(share >= COUNTS)
        for places in marks.values():
            for held in places.values():
                held[rows] = False
        for foot in one.stands:
            floor = foot.floor if floor is None else floor
            places = marks.setdefault(foot.side, {n: np.zeros(frames, bool) for n in ("heel", "toe", "foot")})
            for name, held in places.items():
                held[rows] = marked(getattr(foot, name), one.body.frames)[rows - one.low]
    return tuple(
        FootContacts(side, spans_of(p["heel"]), spans_of(p["toe"]), spans_of(p["foot"]), floor or 0.0)
        for side, p in sorted(marks.items())
    )
