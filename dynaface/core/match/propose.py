"""Which joint of a body is which of a character: by what each is, where a chain has more joints on one side they share."""

from collections.abc import Mapping
from dataclasses import dataclass

from dynaface.core.body.skeleton import Skeleton
from dynaface.core.match.anatomy import CHAINS, anatomy_of

CHAIN_WAYS = ("share", "last")
"""What chains of unlike length do: all share the turn, or joints go one by one and the last takes what is left."""
DOUBTFUL = 0.6  # of confidence below which a match is to be looked at
UNEVEN = 0.95  # by which a match in a chain with more or fewer joints is less sure


@dataclass(frozen=True)
class Share:
    """A joint of a chain between two of the other skeleton. low: joint below, the one that carries the chain for its first, "" where nothing
    does; high: joint above; part: 0..1 of the way.
    """

    low: str
    high: str
    part: float


@dataclass(frozen=True)
class Proposal:
    """matches: target joint -> source joint; confidence: 0..1 of each; shares: target joints of chains that have another number of joints;
    those in none of them follow their parents.
    """

    matches: Mapping[str, str]
    confidence: Mapping[str, float]
    shares: Mapping[str, Share]

    def sure_of(self, matches: Mapping[str, str]) -> dict[str, float]:
        """Confidence of those matches that are as proposed."""
        return {t: self.confidence[t] for t, s in matches.items() if self.matches.get(t) == s}


def propose_match(source: Skeleton, target: Skeleton, chains: str = "share") -> Proposal:
    """What tree, places and names of both skeletons say. chains: of `CHAIN_WAYS`, what spine and neck do where one has more joints."""
    from_anatomy, to_anatomy = anatomy_of(source), anatomy_of(target)
    matches: dict[str, str] = {}
    confidence: dict[str, float] = {}
    shares: dict[str, Share] = {}

    def put(ours: int, theirs: int, factor: float = 1.0) -> None:
        name = target.names[ours]
        matches[name] = source.names[theirs]
        confidence[name] = round(factor * (to_anatomy.sure[ours] * from_anatomy.sure[theirs]) ** 0.5, 3)

    there = {slot: joint for joint, slot in from_anatomy.slots.items()}
    for joint, slot in sorted(to_anatomy.slots.items()):
        if slot.part not in CHAINS and slot in there:
            put(joint, there[slot])
    for part in CHAINS:
        ours, theirs = to_anatomy.chain(part), from_anatomy.chain(part)
        even = len(ours) == len(theirs)
        chain = [source.names[j] for j in theirs]
        if not even and theirs and chains == "last":
            for place, one in zip(ours, _ends_doubled(len(ours), theirs), strict=True):
                put(place, one, UNEVEN)
            continue
        for place, share in zip(ours, _shared(source, len(ours), theirs), strict=False):
            nearest = share.low if share.part <= 0.5 and share.low in chain else share.high
            put(place, source.index(nearest), 1.0 if even else UNEVEN)
            if not even:
                shares[target.names[place]] = share
    return Proposal(matches, confidence, shares)


def _ends_doubled(count: int, theirs: list[int]) -> list[int]:
    """For each of `count` joints of a chain the one of the other's: one by one from below, the topmost with the topmost."""
    return [*theirs[: count - 1], *[theirs[-1]] * (count - len(theirs[: count - 1]))]


def _shared(source: Skeleton, count: int, theirs: list[int]) -> list[Share]:
    """Where each of `count` joints of a chain lies among those of the other, so that both ends meet; [] where there are none."""
    if not theirs:
        return []
    carrier = source.parents[theirs[0]]
    steps = [source.names[carrier] if carrier >= 0 else "", *(source.names[j] for j in theirs)]
    out = []
    for number in range(1, count + 1):
        exact = number * len(theirs) / count
        low = min(int(exact - 1e-9), len(theirs) - 1)
        out.append(Share(steps[low], steps[low + 1], exact - low))
    return out
