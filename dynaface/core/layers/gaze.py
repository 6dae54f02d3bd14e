"""Where eyes look: darts from one aim to the next, holds, and the looks that a capture already has.

Eyes dart within a time that grows with the angle (the main sequence), then hold and step by a fraction of a degree; the head follows
later and more slowly, and the eyes stay on what they look at while it does (Leigh & Zee, The Neurology of Eye Movements).
"""

from dataclasses import dataclass

import numpy as np

from dynaface.core.body.rotations import Array, head_rotation, inverse, rotate
from dynaface.core.curves.channels import Channels
from dynaface.core.curves.known_runs import runs
from dynaface.core.head.eyes import Eyes
from dynaface.core.layers.around import Aim, Around
from dynaface.core.layers.weight import Amounts
from dynaface.core.shapes.gaze import DOWN_DEG, IN_DEG, OUT_DEG, UP_DEG, angles_from_looks
from dynaface.core.shapes.standard import HEAD_ANGLES

CAPTURED, HELD = "captured", "held"
"""Looks that are no aims: as it is beneath, and steady at where it looks beneath on average."""
RESERVED = (CAPTURED, HELD)
SIDES = ("left", "right")
STILL, LEAST = 40.0, 0.08  # degrees a second below which eyes hold, and for how many seconds at least


def dart_seconds(degrees: Amounts | float) -> Amounts:
    """How long a dart of an angle takes (Leigh & Zee: about 2.2 ms a degree above 21 ms)."""
    return np.asarray(0.021 + 0.0022 * np.abs(degrees))


def eased(part: Amounts) -> Amounts:
    """0..1 of a movement of least jerk at parts 0..1 of its time; held outside."""
    p = np.clip(part, 0, 1)
    return p * p * p * (10 + p * (6 * p - 15))


def head_turns(below: Channels) -> Array:
    """(frames, 4) rotations of the head beneath; no rotation where there is a gap."""
    return head_rotation(*(np.nan_to_num(below.column(n)).astype(np.float64) for n in HEAD_ANGLES))


def angles_beneath(below: Channels, side: str) -> Amounts:
    """(frames, 2) turn and nod in degrees of one eye against the head, gaps at rest."""
    end = side.capitalize()
    if f"gazeTurn{end}" in below.names and f"gazeNod{end}" in below.names:
        return np.stack(
            [np.nan_to_num(below.column(f"gaze{w}{end}")).astype(np.float64) for w in ("Turn", "Nod")], axis=1
        )
    out, inward, up, down = (np.nan_to_num(below.column(f"eyeLook{w}{end}")) for w in ("Out", "In", "Up", "Down"))
    return np.stack(angles_from_looks(out, inward, up, down, side), axis=1).astype(np.float64)


def direction(angles: Amounts) -> Amounts:
    """(..., 3) unit directions of (..., 2) turn and nod in degrees."""
    turn, nod = np.radians(angles[..., 0]), np.radians(angles[..., 1])
    return np.stack([np.sin(turn) * np.cos(nod), np.sin(nod), np.cos(turn) * np.cos(nod)], axis=-1)


def angles_of(way: Amounts) -> Amounts:
    """(..., 2) turn and nod in degrees of directions (..., 3) of any length."""
    flat = np.hypot(way[..., 0], way[..., 2])
    return np.degrees(np.stack([np.arctan2(way[..., 0], way[..., 2]), np.arctan2(way[..., 1], flat)], axis=-1))


def on_aim(aim: Aim, head: Array, eyes: Eyes, side: str, convergence: float) -> Amounts:
    """(frames, 2) angles against the head (frames, 4) at which an eye looks at an aim; convergence: 0 both eyes alike, 1 each its own."""
    rest = np.asarray(eyes.left if side == "left" else eyes.right)
    own = eyes.middle + (rest - eyes.middle) * convergence
    pivot = np.asarray(eyes.pivot)
    if aim.on_head:
        way = aim.at - own
        return angles_of(np.broadcast_to(way, (len(head), 3)))
    return angles_of(rotate(inverse(head), aim.at - pivot) - (own - pivot))


def limited(angles: Amounts, side: str, share: float = 1.0) -> Amounts:
    """Angles (..., 2) of an eye within `share` of how far an eye turns."""
    out, inward = OUT_DEG * share, IN_DEG * share
    low, high = (-inward, out) if side == "left" else (-out, inward)
    return np.stack(
        [np.clip(angles[..., 0], low, high), np.clip(angles[..., 1], -DOWN_DEG * share, UP_DEG * share)], axis=-1
    )


def steps(at: Amounts, random: np.random.Generator, mean: float) -> Amounts:
    """(n,) values about 0, within -1..1, that hold and step at times (n,) in seconds; mean: seconds between two steps on average."""
    count = int(at[-1] / mean * 3) + 10
    times = np.cumsum(0.25 + random.exponential(mean - 0.25, count))
    held = random.normal(0, 0.6, count + 1).clip(-1, 1)
    return np.asarray(held[np.searchsorted(times, at, side="right")])


@dataclass(frozen=True)
class Fixation:
    """Frames first..last in which the eyes hold."""

    first: int
    last: int


def gaze_in_space(below: Channels) -> Amounts:
    """(frames, 3) direction of both eyes together in the character's own space."""
    ways = [direction(angles_beneath(below, s)) for s in SIDES]
    return rotate(head_turns(below), ways[0] + ways[1])


def fixations(below: Channels) -> list[Fixation]:
    """Where the eyes hold, in order: slower than STILL degrees a second for LEAST seconds (after a mean over three frames)."""
    if below.frames < 3:
        return []
    rate = float(below.rate)
    angles = angles_of(gaze_in_space(below))
    smooth = angles.copy()
    smooth[1:-1] = (angles[:-2] + angles[1:-1] + angles[2:]) / 3
    still = np.hypot(*np.gradient(smooth, axis=0).T) * rate < STILL
    return [Fixation(first, stop - 1) for first, stop in runs(still) if stop - first >= LEAST * rate]


@dataclass(frozen=True)
class Snapped:
    """looks: (frame, aim or HELD), one a fixation; errors: degrees by which each that met an aim was off it; missed: how many met none."""

    looks: tuple[tuple[int, str], ...]
    errors: tuple[float, ...]
    missed: int


def snap(below: Channels, around: Around, within: float) -> Snapped:
    """The captured gaze as looks: each fixation at the aim nearest to it, if within so many degrees, else steady where it is. A look
    begins where the eyes leave the one before.
    """
    looks: list[tuple[int, str]] = []
    errors = []
    missed, left = 0, 0
    ways, head = direction(angles_of(gaze_in_space(below))), head_turns(below)
    for found in fixations(below):
        off = {key: _off(ways, head, found, aim, around.eyes) for key, aim in around.aims.items()}
        near = min(off, key=lambda k: off[k], default="")
        fits = bool(near) and off[near] <= within
        name = near if fits else HELD
        if fits:
            errors.append(off[near])
        else:
            missed += 1
        if name == HELD or not looks or looks[-1][1] != name:
            looks.append((left, name))
        left = found.last + 1
    return Snapped(tuple(looks), tuple(errors), missed)


def _off(ways: Amounts, head: Array, found: Fixation, aim: Aim, eyes: Eyes) -> float:
    """Degrees between a fixation and an aim, the median over its frames; ways, head: of all frames, in the character's own space."""
    part = slice(found.first, found.last + 1)
    turned = head[part]
    at = aim.at[part] if aim.at.ndim == 2 else aim.at
    there = rotate(turned, direction(on_aim(Aim(at, aim.on_head), turned, eyes, "left", 0.0)))
    cosine = np.sum(there * ways[part], axis=1)
    return float(np.degrees(np.arccos(np.clip(np.median(cosine), -1, 1))))
