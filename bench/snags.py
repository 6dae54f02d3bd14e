"""What the detectors find and miss, on takes broken in known places: `python -m bench.snags`.

Nothing was set on these seeds. A snag is right when it overlaps a fault of its kind in time (3 frames of grace) and
shares a channel with it; one that overlaps a fault of another kind is that fault's own consequence and is not counted.
"""

from collections import Counter

import numpy as np

from dynaface.core.curves.channels import Channels
from dynaface.core.snags.find import DETECTORS, find_snags
from dynaface.core.snags.snag import Evidence, Snag
from dynaface.sims.faults import Fault, break_take
from dynaface.sims.long_take import long_take

GRACE = 3
SEEDS = range(8000, 8006)


def touches(snag: Snag, fault: Fault) -> bool:
    """Whether a snag names a fault."""
    together = snag.first - GRACE <= fault.last and fault.first <= snag.last + GRACE
    return together and bool(set(snag.channels) & set(fault.channels))


def clean(seeds: range) -> tuple[float, Counter[str]]:
    """(minutes, snags by kind) of takes in which nothing is wrong, half of them with the noise of a good camera."""
    found: Counter[str] = Counter()
    minutes = 0.0
    for seed in seeds:
        truth, voice, phones = long_take(seed)
        given = truth if seed % 2 else break_take(truth, voice, phones, (), seed)[0]
        minutes += truth.seconds / 60
        found.update(s.kind for s in find_snags(Evidence(given, voice)))
    return minutes, found


def broken(kind: str, seeds: range) -> tuple[int, int, int, int]:
    """(faults, faults found, snags of the kind, snags that are right) over takes broken in one way."""
    faults = hit = snags = right = 0
    for seed in seeds:
        truth, voice, phones = long_take(seed)
        given, places, late = break_take(truth, voice, phones, (kind,), seed + 77)
        # The voice is late in its file; nobody has moved it yet.
        heard = Evidence(given, voice, 0.0) if not late else Evidence(_earlier(given, late), voice, 0.0)
        found = find_snags(heard, (kind,))
        put = places[kind]
        faults += len(put)
        hit += sum(any(touches(s, f) for s in found) for f in put)
        snags += len(found)
        right += sum(any(touches(s, f) for f in put) for s in found)
    return faults, hit, snags, right


def _earlier(channels: Channels, seconds: float) -> Channels:
    """The face earlier against the voice by some seconds: the same as a voice that is late."""
    shift = round(seconds * float(channels.rate))
    return channels.with_values(np.roll(channels.values, -shift, axis=0))


def main() -> None:
    """Prints false alarms on clean takes, then recall and precision of each kind."""
    minutes, found = clean(range(8200, 8212))
    alarms = sum(found.values()) / minutes
    print(f"clean takes, {minutes:.1f} minutes: {alarms:.2f} snags a minute (target at most 1): {dict(found)}")
    print(f"{'kind':20} faults  recall (0.9)  snags  precision (0.8)")
    for kind in DETECTORS:
        faults, hit, snags, right = broken(kind, SEEDS)
        print(f"{kind:20} {faults:6d} {hit / max(faults, 1):13.2f} {snags:6d} {right / max(snags, 1):16.2f}")


if __name__ == "__main__":
    main()
