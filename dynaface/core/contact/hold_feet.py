"""Feet held where they stand: each on its heel, then flat, then on its toe; hips lowered where a leg is too short; knees keep their way."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from fractions import Fraction

import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import distance_transform_edt, gaussian_filter1d, maximum_filter1d

from dynaface.core.body.rotations import (
    IDENTITY,
    Array,
    between,
    continuous,
    multiply,
    rotate,
    slerp,
)
from dynaface.core.body.skeleton import Motion, Skeleton
from dynaface.core.body.two_bones import KNEE_AXIS, Bones, lay
from dynaface.core.contact.feet import Foot, feet_of, legs_alone
from dynaface.core.contact.find_feet import FootContacts, marked, spans_of
from dynaface.core.numeric.ease import eased

LEAD = 0.15  # seconds over which a foot comes to where it is held, and goes on from there
LIFT = 0.3  # of that over which it comes up out of the ground
STRETCHED = 0.998  # of a leg's length to which it is stretched at most


@dataclass(frozen=True)
class Stand:
    """What a foot is to do: turn (frames, 4) world rotation, ankle (frames, 3) metres."""

    turn: Array
    ankle: Array


def lead_of(rate: Fraction) -> int:
    """Frames over which a foot comes to where it is held."""
    return max(round(LEAD * float(rate)), 2)


def hold_feet(motion: Motion, contacts: Sequence[FootContacts]) -> Motion:
    """The motion with its feet held in their contacts; with no contacts only lifted out of the ground where they sink in. Raises InputError
    without two legs.
    """
    if not contacts or not motion.frames:
        return motion
    legs, joints = legs_alone(motion)
    feet = {foot.side: foot for foot in feet_of(legs.skeleton)}
    rotations, positions = legs.skeleton.pose(legs.local, legs.root)
    lead = lead_of(motion.rate)
    stands = {c.side: stand(feet[c.side], rotations, positions, c, lead) for c in contacts}
    drop = lowered(feet, stands, positions, lead)
    root = motion.root - np.array([0.0, 1.0, 0.0]) * drop[:, None]
    positions = positions - np.array([0.0, 1.0, 0.0]) * drop[:, None, None]
    moved = legs.local.copy()
    for side, wish in stands.items():
        _laid(legs.skeleton, feet[side], rotations, positions, wish, moved)
    local = motion.local.copy()
    local[:, joints] = continuous(moved)
    return replace(motion, local=local, root=root)


def stand(foot: Foot, rotations: Array, positions: Array, contacts: FootContacts, lead: int) -> Stand:
    """Where a foot is to be in every frame, and how it is turned."""
    frames = len(rotations)
    turn = rotations[:, foot.ankle]
    both = marked(contacts.heel, frames) & marked(contacts.toe, frames)
    turn = multiply(_flattened(foot, turn, both, lead), turn)
    ankle = positions[:, foot.ankle]
    heel, ball = (rotate(turn, np.broadcast_to(p, ankle.shape)) for p in (foot.heel, foot.ball))
    on_heel = marked(contacts.heel, frames)
    moved: list[tuple[int, int, Array]] = []
    for first, last in contacts.foot:
        own = slice(first, last + 1)
        moved.append((first, last, _held(ankle[own], heel[own], ball[own], on_heel[own], contacts.floor, foot.clear)))
    shift = eased_between(moved, frames, lead)
    lowest = np.minimum(heel[:, 1], ball[:, 1] - foot.clear) + ankle[:, 1] + shift[:, 1]
    shift[:, 1] += lifted(np.maximum(contacts.floor - lowest, 0.0), marked(contacts.foot, frames), lead)
    return Stand(turn, ankle + shift)


def lifted(sunk: Array, stands: NDArray[np.bool_], lead: int) -> Array:
    """(frames,) metres by which a foot comes up out of the ground while it does not stand: over time, and softly beside where it does, so that
    a knee does not jerk. sunk: (frames,) metres by which it is in the ground.
    """
    free = np.where(stands, 0.0, sunk)
    if not free.any():
        return free
    around = LIFT * lead
    up = _over_time(free, max(round(around), 1), max(around / 2, 0.5))
    apart = distance_transform_edt(~stands) if stands.any() else np.full(len(sunk), lead)
    return np.asarray(up * eased(np.clip(apart / (lead / 2), 0, 1)))


def _held(ankle: Array, heel: Array, ball: Array, on_heel: NDArray[np.bool_], floor: float, clear: float) -> Array:
    """(n, 3) metres by which an ankle moves so that its heel, then its toe, stays where it stands; each takes over where the other is."""
    out = np.zeros_like(ankle)
    edges = np.flatnonzero(np.diff(on_heel.astype(np.int8))) + 1
    for run in np.split(np.arange(len(ankle)), edges):
        first = run[0]
        place = ankle + (heel if on_heel[first] else ball)
        anchor = place[first - 1] + out[first - 1] if first else np.median(place[run], axis=0)
        anchor[1] = floor + (0.0 if on_heel[first] else clear)
        out[run] = anchor - place[run]
    return out


def _flattened(foot: Foot, turn: Array, both: NDArray[np.bool_], lead: int) -> Array:
    """(frames, 4) world turns that keep a foot still and flat while heel and toe both stand, and let go of it softly."""
    out = np.broadcast_to(IDENTITY, turn.shape).copy()
    sole = foot.ball - foot.heel
    along = rotate(turn, np.broadcast_to(sole, (len(turn), 3)))
    spans = spans_of(both)
    if not spans:
        return out
    inside = np.concatenate([np.arange(first, last + 1) for first, last in spans])
    out[inside] = between(along[inside], np.concatenate([_level(along[a : b + 1], sole, foot.clear) for a, b in spans]))
    leads: list[tuple[NDArray[np.intp], int]] = []
    for number, (first, last) in enumerate(spans):
        before = spans[number - 1][1] if number else -1
        after = spans[number + 1][0] if number + 1 < len(spans) else len(turn)
        lead_in, lead_out = min(lead, (first - before) // 2), min(lead, (after - last) // 2)
        leads += [(np.arange(first - lead_in, first), first), (np.arange(last + lead_out, last, -1), last)]
    at = np.concatenate([frames for frames, _ in leads])
    edges = np.concatenate([np.full(len(frames), edge) for frames, edge in leads])
    shares = np.concatenate([eased(np.arange(1, len(f) + 1) / (len(f) + 1)) for f, _ in leads])
    out[at] = slerp(IDENTITY, out[edges], shares)
    return out


def _level(along: Array, sole: Array, clear: float) -> Array:
    """(n, 3) of a sole (3,) whose mean direction over a span is along (n, 3), as it lies flat on the ground."""
    level = along.mean(axis=0) * [1, 0, 1]
    flat = level / max(float(np.linalg.norm(level)), 1e-9) * np.sqrt(max(float(sole @ sole) - clear**2, 1e-12))
    flat[1] = clear
    return np.broadcast_to(flat, along.shape)


def eased_between(held: Sequence[tuple[int, int, Array]], frames: int, lead: int) -> Array:
    """(frames, 3) shifts: as they are in what is held, from one to the next in between, and to none where there is time; at each edge they go
    on as fast as they went, so that a knee does not jerk.
    """
    out = np.zeros((frames, 3))
    for first, last, own in held:
        out[first : last + 1] = own
    ends = [(-1, np.zeros((1, 3))), *((last, own) for _, last, own in held)]
    begins = [*((first, own) for first, _, own in held), (frames, np.zeros((1, 3)))]
    for (last, leaving), (first, coming) in zip(ends, begins, strict=True):
        at = np.arange(last + 1, first)
        gap = first - last
        by = gap if lead * 2 >= gap and last >= 0 and first < frames else min(lead, gap)
        out[at] += _going(leaving[-1], leaving[-1] - leaving[-min(3, len(leaving))], (at - last) / by, by)
        out[at] += _going(coming[0], coming[0] - coming[min(2, len(coming) - 1)], (first - at) / by, by)
    return out


def _going(value: Array, change: Array, part: Array, by: int) -> Array:
    """(n, 3) from a value (3,) to none as part goes from 0 to 1, `by` frames long; change: of two frames at its beginning."""
    u = np.clip(part, 0, 1)[:, None]
    return np.asarray((1 + 2 * u) * (1 - u) ** 2 * value + u * (1 - u) ** 2 * by * change / 2)


def lowered(feet: Mapping[str, Foot], stands: Mapping[str, Stand], positions: Array, lead: int) -> Array:
    """(frames,) metres by which the hips go down so that legs reach, over time so that nothing jumps."""
    need = np.zeros(len(positions))
    for side, wish in stands.items():
        foot = feet[side]
        way = positions[:, foot.thigh] - wish.ankle
        most = foot.leg * STRETCHED
        aside = np.minimum(np.hypot(way[:, 0], way[:, 2]), most * 0.95)
        need = np.maximum(need, way[:, 1] - np.sqrt(most**2 - aside**2))
    if not need.any():
        return need
    return _over_time(need, lead // 2, lead / 4)


def _over_time(need: Array, around: int, blur: float) -> Array:
    """(frames,) what is needed, on so many frames to either side as well, so that nothing jumps; blur: frames of the smoothing."""
    return np.asarray(gaussian_filter1d(maximum_filter1d(need, 2 * around + 1), blur, mode="nearest"))


def _laid(skeleton: Skeleton, foot: Foot, rotations: Array, positions: Array, wish: Stand, local: Array) -> None:
    """Turns thigh, shin and foot in place so that the ankle comes to where it is wished; the knee goes on pointing where it did."""
    legs = Bones(foot.thigh, foot.shin, foot.ankle)
    for joint, turn in lay(skeleton, legs, rotations, positions, wish.ankle, wish.turn, KNEE_AXIS).items():
        local[:, joint] = turn
