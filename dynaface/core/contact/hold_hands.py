"""Hands held where they touch: on the head wherever it is turned, and on each other; arms bend so that they reach."""

from fractions import Fraction

import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import binary_dilation

from dynaface.core.body.rotations import Array, continuous, rotate
from dynaface.core.body.two_bones import elbow_axis, lay
from dynaface.core.contact.by_hand import SIDES
from dynaface.core.contact.find_feet import spans_of
from dynaface.core.contact.find_hands import TOUCHES, Toucher
from dynaface.core.contact.hands import PLACES
from dynaface.core.contact.hold_feet import eased_between
from dynaface.core.contact.touching import Touching

LEAD = 0.25  # seconds over which a hand comes to what it touches, and goes on from there


def lead_of_hands(rate: Fraction) -> int:
    """Frames over which a hand comes to what it touches."""
    return max(round(LEAD * float(rate)), 2)


def hold_hands(who: Toucher, local: Array, root: Array, touching: Touching, rate: Fraction) -> Array:
    """Local rotations (frames, joints, 4) with hands where they touch; wrists keep how they are turned. who: of the character; root:
    (frames, 3).
    """
    lead = lead_of_hands(rate)
    near = touching.on.any(axis=1)
    if not near.any() or not who.kinds():
        return local
    rows = np.flatnonzero(binary_dilation(near, iterations=2 * lead))
    rotations, positions = who.skeleton.pose(local[rows], root[rows])
    out = local.copy()
    for side, (held, shift) in _shifts(who, rotations, positions, touching.rows(rows)).items():
        moved = _eased(rows, held, shift, lead)
        _laid(who, side, rotations, positions, moved, rows, out)
    return out


def _shifts(who: Toucher, rotations: Array, positions: Array, touching: Touching) -> dict[str, tuple[NDArray[np.bool_], Array]]:  # fmt: skip
    """side -> (whether a hand touches (n,), metres by which it moves there (n, 3))."""
    frames = len(rotations)
    out = {side: (np.zeros(frames, bool), np.zeros((frames, 3))) for side in who.hands}
    for number, side in enumerate(SIDES):
        on = np.flatnonzero(touching.on[:, number])
        if len(on) and TOUCHES[number] in who.kinds():
            held, shift = out[side]
            held[on] = True
            shift[on] = _onto_head(who, side, rotations[on], positions[on], touching.rows(on), number)
    on = np.flatnonzero(touching.on[:, 2])
    if len(on) and len(who.hands) == 2:
        _onto_each_other(who, rotations[on], positions[on], touching.rows(on), on, out)
    return out


def _onto_head(who: Toucher, side: str, rotations: Array, positions: Array, touching: Touching, number: int) -> Array:
    assert who.surface is not None
    way = touching.way[:, number]
    way = way / np.maximum(np.linalg.norm(way, axis=1, keepdims=True), 1e-9)
    place, skin = _places(who, side, rotations, positions, touching.places[:, number, SIDES.index(side)])
    away = way * (who.surface.radius(way) + skin)[:, None]
    turn = who.turned(rotations, who.head)
    return np.asarray(who.middle(rotations, positions) + rotate(turn, away) - place)


def _places(who: Toucher, side: str, rotations: Array, positions: Array, names: NDArray[np.int8]) -> tuple[Array, Array]:  # fmt: skip
    """(places (n, 3) of a hand that touch, metres (n,) to their skin)."""
    hand = who.hands[side]
    place, skin = np.zeros((len(names), 3)), np.zeros(len(names))
    for name in np.unique(names):
        own = names == name
        place[own] = hand.place(PLACES[name], rotations[own], positions[own])
        skin[own] = hand.skin(PLACES[name])
    return place, skin


def _onto_each_other(who: Toucher, rotations: Array, positions: Array, touching: Touching, on: NDArray[np.intp],
                     out: dict[str, tuple[NDArray[np.bool_], Array]]) -> None:  # fmt: skip
    """Each hand goes half the way; one that is on the head stays there."""
    (left, thick), (right, other) = (
        _places(who, side, rotations, positions, touching.places[:, 2, number]) for number, side in enumerate(SIDES)
    )
    way = touching.way[:, 2]
    if who.chest >= 0:
        way = rotate(who.turned(rotations, who.chest), way)
    way = way / np.maximum(np.linalg.norm(way, axis=1, keepdims=True), 1e-9) * (thick + other)[:, None]
    busy = np.stack([out[side][0][on] for side in SIDES], axis=1)
    left, right = left + out["Left"][1][on], right + out["Right"][1][on]
    # Of two free hands each takes half; beside a busy one the free hand takes all.
    share = np.where(busy[:, 1] & ~busy[:, 0], 1.0, np.where(busy[:, 0], 0.0, 0.5))[:, None]
    missing = right - way - left
    for side, part in (("Left", share * missing), ("Right", (share - 1) * missing)):
        held, shift = out[side]
        free = ~busy[:, SIDES.index(side)]
        shift[on[free]] += part[free]
        held[on] = True


def _eased(rows: NDArray[np.intp], held: NDArray[np.bool_], shift: Array, lead: int) -> Array:
    """(n, 3) shifts of rows that lie in several stretches, going over from and to none."""
    out = np.zeros_like(shift)
    for part in np.split(np.arange(len(rows)), np.flatnonzero(np.diff(rows) > 1) + 1):
        spans = spans_of(held[part])
        out[part] = eased_between([(a, b, shift[part][a : b + 1]) for a, b in spans], len(part), lead)
    return out


def _laid(who: Toucher, side: str, rotations: Array, positions: Array, shift: Array, rows: NDArray[np.intp],
          local: Array) -> None:  # fmt: skip
    """Turns upper arm, forearm and wrist in place."""
    bones = who.hands[side].bones
    wish, turn = positions[:, bones.end] + shift, rotations[:, bones.end]
    turned = lay(who.skeleton, bones, rotations, positions, wish, turn, elbow_axis(who.skeleton, bones))
    moved = np.flatnonzero(np.abs(shift).sum(axis=1) > 0)
    for joint, turn in turned.items():
        local[rows[moved], joint] = turn[moved]
        local[:, joint] = continuous(local[:, joint])
