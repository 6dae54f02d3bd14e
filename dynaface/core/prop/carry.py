"""Props carried by hands: who leads a prop goes on as captured and takes it along, all other hands on it come to where it is."""

from collections.abc import Mapping
from dataclasses import dataclass
from fractions import Fraction

import numpy as np

from dynaface.core.body.rotations import Array, continuous, inverse, multiply, normalised, rotate
from dynaface.core.contact.hold_feet import eased_between
from dynaface.core.contact.hold_hands import lead_of_hands
from dynaface.core.numeric.ease import eased
from dynaface.core.prop.holder import Holder
from dynaface.core.prop.prop import Hold, PlacedProp, PropShape, PropWay, own_way

QUICK = 0.2  # metres that a hand goes within the lead of hands


@dataclass(frozen=True)
class Carried:
    """way: where the prop is; short: hold -> metres that its hand is away from the prop where it is farthest, nan for a hand that is not
    there.
    """

    way: PropWay
    short: Mapping[str, float]


def carry(placed: PlacedProp, shape: PropShape, holders: Mapping[str, Holder], frames: int, rate: Fraction) -> Carried:
    """Where a prop goes; arms of holders, by role, are bent in place.

    Of several hands on a prop the one that has held it longest leads. A hand that comes to a prop takes it from where it is then, and
    goes back to its own way within the lead, the prop with it. What nobody holds stays where it was let go. Hands go to a prop that
    moves by itself.
    """
    way = own_way(placed, shape, frames, rate)
    short = {key: float("nan") for key in placed.holds}
    moving = placed.plays is not None and shape.motion is not None
    lead, end = lead_of_hands(rate), -1
    for key, hold in placed.in_order:
        holder = holders.get(hold.role)
        first, last = max(hold.first, 0), min(hold.last, frames - 1)
        if holder is None or hold.side not in holder.hands or first > last:
            continue
        grip = np.asarray(hold.at, np.float64) * placed.size
        leads = max(first, end + 1)
        if moving or leads > last:
            _reach(holder, hold.side, way, grip, first, last, lead)
        else:
            if end < 0 and placed.in_hand:
                palm, _ = holder.palm(hold.side)
                way.at[:] = palm[leads] - rotate(way.turns[leads], grip)
            else:
                _reach(holder, hold.side, way, grip, first, leads, lead)
            _lead(placed, hold, holder, way, grip, leads, last, lead)
            end = last
        if hold.closed:
            beyond = np.maximum(first - np.arange(frames), np.arange(frames) - last)
            holder.close(hold.side, hold.closed * eased(1 - beyond / lead))
        palm, _ = holder.palm(hold.side)
        rows = slice(first, last + 1)
        short[key] = float(np.linalg.norm(way.place(grip, rows) - palm[rows], axis=1).max())
    return Carried(PropWay(way.at, continuous(normalised(way.turns))), short)


def _reach(holder: Holder, side: str, way: PropWay, grip: Array, first: int, last: int, lead: int) -> None:
    """Brings a hand to a prop; farther ways take longer."""
    palm, _ = holder.palm(side)
    rows = slice(first, last + 1)
    shift = way.place(grip, rows) - palm[rows]
    far = float(np.linalg.norm(shift[[0, -1]], axis=1).max())
    holder.reach(side, eased_between([(first, last, shift)], len(palm), max(lead, round(far / QUICK * lead))))


def _lead(
    placed: PlacedProp, hold: Hold, holder: Holder, way: PropWay, grip: Array, first: int, last: int, lead: int
) -> None:
    """Lets a prop go along with a hand from a frame on, in place, and stay where it is after the last."""
    palm, turns = holder.palm(hold.side)
    since = multiply(turns[first : last + 1], inverse(turns[first]))
    if placed.hangs:
        since = _about_up(since)
    turn = multiply(since, way.turns[first])
    at = palm[first : last + 1] - rotate(turn, np.broadcast_to(grip, (len(turn), 3)))
    # Where the arm is too short the prop comes to the hand, not at once.
    missing = way.at[first] - at[0]
    at += missing * (1 - eased(np.arange(len(at)) / lead))[:, None]
    way.at[first : last + 1], way.turns[first : last + 1] = at, turn
    way.at[last + 1 :], way.turns[last + 1 :] = at[-1], turn[-1]


def _about_up(turns: Array) -> Array:
    """(n, 4) what of turns is about up; where nothing is, none."""
    only = turns * np.array([0.0, 1.0, 0.0, 1.0])
    lost = np.linalg.norm(only, axis=-1, keepdims=True) < 1e-6
    return normalised(np.where(lost, [0.0, 0.0, 0.0, 1.0], only))
