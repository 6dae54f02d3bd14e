"""How the head's turn lies on the joints that carry it, and against what the face take saw it turn."""

from collections.abc import Mapping
from dataclasses import dataclass, field

import numpy as np

from dynaface.core.body.rotations import Array, about, headings, inverse, multiply
from dynaface.core.body.skeleton import Skeleton
from dynaface.core.head.neck import chain_from, chain_shared, chain_turns, measured_shares
from dynaface.core.perform.join import RetargetedBody
from dynaface.core.perform.join_settings import JoinSettings


@dataclass(frozen=True)
class HeadRules:
    """joint, spread, shares, filmed: as head_from, spread, head_shares and filmed of `JoinSettings`."""

    joint: str = ""
    spread: str = "even"
    shares: Mapping[str, float] = field(default_factory=dict)
    filmed: str = "chest"


PLAIN = HeadRules()


@dataclass(frozen=True)
class HeadFrame:
    """What rules come to on a character with a body. chain: joints from the lowest to the head; shares: (chain,) of the turn, None for all
    alike; facing: degrees about up of what stood still with the camera, None where that was the chest; unseen: whether the camera went
    along with the head, so that it saw no turn.
    """

    chain: tuple[int, ...]
    shares: tuple[float, ...] | None = None
    facing: float | None = None
    unseen: bool = False

    def asked(self, head: Array, base: Array) -> Array:
        """(frames, 4) the head's turn against the joint that carries the chain. head: as the face take saw it; base: turn of that joint."""
        if self.facing is None:
            return head
        return multiply(inverse(base), multiply(about("y", self.facing), head))

    def laid(self, turns: Array, base: Array, head: Array, weight: Array) -> Array:
        """World turns of the chain (frames, chain, 4), as in `chain_turns`."""
        if self.shares is None:
            return chain_turns(turns, base, list(self.chain), head, weight)
        return chain_shared(turns, base, list(self.chain), head, weight, np.array(self.shares))


def head_rules(settings: JoinSettings) -> HeadRules:
    """The rules of a join."""
    return HeadRules(settings.head_from, settings.spread, settings.head_shares, settings.filmed)


def head_frame(skeleton: Skeleton, rules: HeadRules, body: RetargetedBody, head: Array) -> HeadFrame:
    """Rules on a skeleton with a body; head: (frames, 4) as the face take saw it, of the same frames."""
    chain = chain_from(skeleton, rules.joint)
    if not chain:
        return HeadFrame(())
    shares: tuple[float, ...] | None = None
    if rules.spread == "measured":
        shares = tuple(measured_shares(body.local[:, chain]).tolist())
    elif rules.spread == "set":
        shares = tuple(rules.shares.get(skeleton.names[j], 1.0) for j in chain)
    elif rules.joint:
        shares = (1.0,) * len(chain)
    facing = _facing(body.turns[:, chain[-1]], head) if rules.filmed == "fixed" and body.moving and len(head) else None
    return HeadFrame(tuple(chain), shares, facing, rules.filmed == "head")


def _facing(own: Array, seen: Array) -> float:
    """Degrees about up between how the body take turns the head in the world and how the face take saw it, both (frames, 4)."""
    off = headings(own) - headings(seen)
    return float(np.degrees(np.arctan2(np.sin(off).mean(), np.cos(off).mean())))
