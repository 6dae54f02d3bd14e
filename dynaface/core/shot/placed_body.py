"""The body of one placement on a character, at the shot's frames: through its take's join, at its speed, repeated by going on."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from fractions import Fraction

import numpy as np

from dynaface.core.body.rotations import slerp
from dynaface.core.body.skeleton import Motion, Skeleton
from dynaface.core.clock.timecode import Timecode
from dynaface.core.contact.find_feet import FootContacts, Spans
from dynaface.core.numeric.ease import eased
from dynaface.core.perform.join import Moments, RetargetedBody, carried_body, stands_at, with_touches
from dynaface.core.perform.join_settings import JoinSettings
from dynaface.core.shot.lane import window
from dynaface.core.shot.placement import Placement
from dynaface.core.shot.standing_place import NOWHERE, GroundMove, moved_onto, put

BEGIN, TURN, END, SEEN = (
    1,
    2,
    3,
    4,
)  # rows that are worked out before those of the shot's frames; row 0 is the take's beginning


@dataclass(frozen=True)
class BodyTake:
    """The body of a take as its join has it: rate and timecode of the take, on which nudges and the place in time depend."""

    rate: Fraction
    timecode: Timecode | None
    settings: JoinSettings


@dataclass(frozen=True)
class PlacedBody:
    """body: from frame `low` of the shot on; begin, end: one frame each, at both ends of the placement; stands: when feet do, in frames of
    the body; follows: whether it begins where the one before it on its lane stands.
    """

    placement: Placement
    follows: bool
    low: int
    body: RetargetedBody
    begin: RetargetedBody
    end: RetargetedBody
    stands: tuple[FootContacts, ...] = ()

    def onto(self, move: GroundMove, target: Skeleton) -> "PlacedBody":
        """The same elsewhere on the ground."""
        body, begin, end = (put(b, target, move) for b in (self.body, self.begin, self.end))
        return replace(self, body=body, begin=begin, end=end)


def carry_placed(
    placed: Placement, follows: bool, take: BodyTake, target: Skeleton, body: Motion, hands: Motion | None,
    contacts: Sequence[FootContacts], touches: Mapping[str, Spans], rate: Fraction, frames: int,
) -> PlacedBody:  # fmt: skip
    """A placed body at `rate`, within a shot of `frames`. contacts: of the feet in the body take; touches: of its hands."""
    low, high = window(placed, rate, frames)
    where, passes = placed.source_at(np.arange(low, high) / float(rate))
    (stop,), (last_pass,) = placed.source_at(np.array([float(placed.stop)]))
    ends = np.array([0.0, float(placed.first), float(placed.last), stop])
    led, share = _leading(placed, where, passes)
    moments = Moments(np.concatenate([ends, where, led]), take.rate, take.timecode)
    moved = carried_body(moments, target, body, take.settings, hands)
    begin = moved.frame(BEGIN)
    moves = _moves(begin, moved.frame(TURN), target, placed)
    seen = moved.rows(slice(SEEN, SEEN + len(where)))
    shown = _by_pass(seen, passes, moves, target)
    if len(led):
        ahead = _by_pass(moved.rows(slice(SEEN + len(where), None)), passes[share > 0] + 1, moves, target)
        shown = _blended(shown, ahead, share)
    own = replace(moments, seconds=where)
    shown = with_touches(shown, own, body, take.settings, touches)
    stands = stands_at(own, target, body, take.settings, contacts)
    return PlacedBody(placed, follows, low, shown, begin, put(moved.frame(END), target, moves[last_pass]), stands)


def _leading(placed: Placement, where: np.ndarray, passes: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """(seconds of the source that lead into the next pass (m,), share of them at each frame (n,), 0 but for m of them)."""
    share = np.zeros(len(where))
    if placed.seam > 0 and placed.repeats > 1:
        left = (float(placed.last) - where) / float(placed.speed)
        again = passes < np.ceil(float(placed.repeats) - 1e-9) - 1
        share = np.where(again, eased(1 - left / float(placed.seam)), 0.0)
        left = left[share > 0]
        return np.maximum(float(placed.first) - left * float(placed.speed), 0), share
    return np.zeros(0), share


def _moves(begin: RetargetedBody, turn: RetargetedBody, target: Skeleton, placed: Placement) -> list[GroundMove]:
    """Where each pass goes on: one after the other from where the one before it ended."""
    out = [NOWHERE]
    if placed.repeats > 1:
        step = moved_onto(begin, turn, target)
        for _ in range(int(np.ceil(float(placed.repeats) - 1e-9))):
            out.append(step.then(out[-1]))
    return out


def _by_pass(body: RetargetedBody, passes: np.ndarray, moves: Sequence[GroundMove], target: Skeleton) -> RetargetedBody:
    if not passes.any():
        return body
    turns, local, root = body.turns.copy(), body.local.copy(), body.root.copy()
    for number in np.unique(passes):
        own = passes == number
        there = put(body.rows(own), target, moves[number])
        turns[own], local[own], root[own] = there.turns, there.local, there.root
    return replace(body, turns=turns, local=local, root=root)


def _blended(body: RetargetedBody, ahead: RetargetedBody, share: np.ndarray) -> RetargetedBody:
    turns, local, root = body.turns.copy(), body.local.copy(), body.root.copy()
    own, part = share > 0, share[share > 0][:, None]
    turns[own] = slerp(turns[own], ahead.turns, part)
    local[own] = slerp(local[own], ahead.local, part)
    root[own] += (ahead.root - root[own]) * part
    return replace(body, turns=turns, local=local, root=root)
