"""When hands touch the head, or each other: by how near they are and how fast they go against it, with hysteresis."""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from dynaface.core.body.rotations import Array, inverse, multiply, rotate
from dynaface.core.body.skeleton import Motion, Skeleton
from dynaface.core.contact.by_hand import SIDES
from dynaface.core.contact.find_feet import Spans, hysteresis, spans_of, speed_of
from dynaface.core.contact.hands import PLACES, Hand, hands_of
from dynaface.core.contact.head_surface import HeadSurface, adult_head
from dynaface.core.match.anatomy import anatomy_of

TOUCHES = ("LeftHand", "RightHand", "Hands")
"""What touches: a hand the head, or both hands each other."""
NEAR, FAR = 0.025, 0.05  # metres of skin from skin at which a touch begins, and up to which it lasts, of an adult
SLOW, QUICK = 0.4, 0.9  # metres a second against what is touched, likewise; hands that clap are quick
CLAP = 4.0  # times as quick
LEVEL, EDGE = (
    20,
    0.01,
)  # per cent of the frames of a touch that are as near as it gets, and metres beyond that at its edges
BLUR = 0.02  # seconds
SHORT = 0.1  # seconds of a touch of the head at least


@dataclass(frozen=True)
class Toucher:
    """A skeleton as far as its hands touch: hands by side; head: its joint, -1 without; chest: the joint that carries the neck, or the
    head; surface: of the head, None without.
    """

    skeleton: Skeleton
    hands: Mapping[str, Hand]
    head: int
    chest: int
    surface: HeadSurface | None

    @classmethod
    def of(cls, skeleton: Skeleton, surface: HeadSurface | None = None) -> "Toucher":
        """Of a skeleton, whose head has a surface; an adult's where it is not known."""
        anatomy = anatomy_of(skeleton)
        head = anatomy.joint("head")
        neck = next(iter(anatomy.chain("neck")), head)
        chest = skeleton.parents[neck] if neck >= 0 else -1
        return cls(skeleton, hands_of(skeleton), head, chest, (surface or adult_head(skeleton)) if head >= 0 else None)

    def kinds(self) -> tuple[str, ...]:
        """Those of `TOUCHES` that it can do."""
        own = tuple(f"{side}Hand" for side in SIDES if side in self.hands and self.surface is not None)
        return own + (("Hands",) if len(self.hands) == 2 else ())

    def turned(self, rotations: Array, joint: int) -> Array:
        """(frames, 4) how a joint is turned from its rest."""
        return multiply(rotations[:, joint], inverse(self.skeleton.global_rest()[0][joint]))

    def middle(self, rotations: Array, positions: Array) -> Array:
        """(frames, 3) the middle of the head."""
        assert self.surface is not None
        away = self.surface.middle - self.skeleton.global_rest()[1][self.head]
        return positions[:, self.head] + rotate(self.turned(rotations, self.head), np.broadcast_to(away, (len(positions), 3)))  # fmt: skip

    def seen_from_head(self, places: Array, rotations: Array, positions: Array) -> Array:
        """(frames, 3) places against the middle of the head, as if it were turned as at rest."""
        return rotate(inverse(self.turned(rotations, self.head)), places - self.middle(rotations, positions))

    def beyond_skin(self, hand: Hand, name: str, rotations: Array, positions: Array) -> tuple[Array, Array]:
        """(metres (frames,) between the skin of a place of a hand and that of the head, where it is against the head (frames, 3))."""
        assert self.surface is not None
        away = self.seen_from_head(hand.place(name, rotations, positions), rotations, positions)
        far = np.linalg.norm(away, axis=1)
        return far - self.surface.radius(away / np.maximum(far, 1e-9)[:, None]) - hand.skin(name), away

    def apart(self, left: str, right: str, rotations: Array, positions: Array) -> tuple[Array, Array]:
        """(metres (frames,) between the skins of a place of each hand, the way (frames, 3) from the left one to the right one as the chest
        sees it).
        """
        one, other = self.hands["Left"], self.hands["Right"]
        way = other.place(right, rotations, positions) - one.place(left, rotations, positions)
        if self.chest >= 0:
            way = rotate(inverse(self.turned(rotations, self.chest)), way)
        return np.linalg.norm(way, axis=1) - one.skin(left) - other.skin(right), way

    def seen(self, kind: str, rotations: Array, positions: Array) -> list["Seen"]:
        """A kind of `kinds` by each place of a hand, and of both hands by each place that both have."""
        if kind == "Hands":
            names = [n for n in PLACES if all(n in hand.places for hand in self.hands.values())]
            return [Seen(n, n, *self.apart(n, n, rotations, positions)) for n in names]
        side = kind.removesuffix("Hand")
        hand = self.hands[side]
        names = [n for n in PLACES if n in hand.places]
        of = [(n, "") if side == "Left" else ("", n) for n in names]
        return [Seen(*o, *self.beyond_skin(hand, n, rotations, positions)) for o, n in zip(of, names, strict=True)]


class Seen(NamedTuple):
    """How a kind of touch looks by places of the hands. left, right: the places, "" for a hand that does not take part; gap: (frames,) metres
    between skins; way: (frames, 3) as in `Toucher.apart` and `Toucher.beyond_skin`.
    """

    left: str
    right: str
    gap: Array
    way: Array


def find_touches(motion: Motion) -> dict[str, Spans]:
    """Spans of frames in which hands touch, by what touches; {} of a body without hands."""
    who, rate = Toucher.of(motion.skeleton), float(motion.rate)
    kinds = who.kinds()
    if not kinds or not motion.frames:
        return {}
    rotations, positions = motion.skeleton.pose(motion.local, motion.root)
    out = {}
    for kind in kinds:
        seen = who.seen(kind, rotations, positions)
        if kind == "Hands":
            size = float(np.mean([h.size for h in who.hands.values()]))
            held = touching_frames(seen, rate, size, CLAP, 0.0)
        else:
            held = touching_frames(seen, rate, who.hands[kind.removesuffix("Hand")].size, 1.0, SHORT)
        out[kind] = spans_of(held)
    return out


def touching_frames(seen: list[Seen], rate: float, size: float, quicker: float, short: float) -> NDArray[np.bool_]:  # fmt: skip
    """(frames,) whether any of some places touches. rate: Hz; size: of the arm by that of an adult; quicker: by how much faster it may go
    than a hand on a head; short: seconds that a touch lasts at least.
    """
    near = np.zeros(len(seen[0].gap), bool)
    for one in seen:
        gap, speed = one.gap / size, speed_of(one.way, rate, BLUR) / size / quicker
        near |= hysteresis((gap < NEAR) & (speed < SLOW), (gap < FAR) & (speed < QUICK))
    out = np.zeros(len(near), bool)
    for first, last in spans_of(near):
        gaps = [one.gap[first : last + 1] / size for one in seen]
        # What touches is what is nearest; it comes last and leaves first.
        levels = [np.percentile(gap, LEVEL) for gap in gaps]
        best = int(np.argmin(levels))
        on = np.flatnonzero(gaps[best] < levels[best] + EDGE)
        if on[-1] - on[0] + 1 >= round(short * rate):
            out[first + on[0] : first + on[-1] + 1] = True
    return out
