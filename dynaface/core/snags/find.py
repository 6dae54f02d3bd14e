"""Running the detectors over a take."""

from collections import Counter
from collections.abc import Sequence
from dataclasses import replace

from dynaface.core.registry import discover
from dynaface.core.snags import detectors as _detectors
from dynaface.core.snags.snag import Detector, Evidence, Snag

DETECTORS: dict[str, Detector[Evidence]] = discover(_detectors, "DETECTOR")
MAX_PER_KIND = 400  # snags of one kind; a take with more needs a step on the whole, not mends one by one


def find_snags(evidence: Evidence, kinds: Sequence[str] = tuple(DETECTORS), beside: Sequence[Snag] = ()) -> list[Snag]:
    """All snags, worst first; of one kind at most the MAX_PER_KIND worst. beside: those that no detector finds, to be listed among them."""
    out = list(beside)
    for kind in kinds if evidence.channels.frames >= 4 else ():
        detector = DETECTORS[kind]
        if "sound" in detector.needs and evidence.sound is None:
            continue
        out += sorted(detector.find(evidence), key=lambda s: -s.severity)[:MAX_PER_KIND]
    bursts = [s for s in out if s.kind == "jitter burst"]
    return worst_first([s for s in out if s.kind != "spike" or not any(_within(s, b) for b in bursts)])


def worst_first(snags: list[Snag]) -> list[Snag]:
    """Snags by severity, with keys that differ."""
    return sorted(_told_apart(snags), key=lambda s: (-s.severity, s.first))


def _told_apart(snags: list[Snag]) -> list[Snag]:
    """The snags with keys that differ: several may begin within a few frames of each other."""
    seen: Counter[str] = Counter()
    out = []
    for snag in sorted(snags, key=lambda s: s.first):
        out.append(replace(snag, twin=seen[snag.key]))
        seen[snag.key] += 1
    return out


def _within(spike: Snag, burst: Snag) -> bool:
    """A spike in a burst is part of the burst: it is not listed twice."""
    return burst.first <= spike.first and spike.last <= burst.last and set(spike.channels) <= set(burst.channels)
