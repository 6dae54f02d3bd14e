"""How far lips trail the loudness of what they say: `python -m tools.lip_trail` prints what JAW_TRAIL of core/sync/lips_to_sound.py is set to.

Measured on some of the lines (`SET_ON`), heard near the mouth and somewhere in a room; the figures of bench/lip_sync.py and
bench/line_up.py are of others.
"""

import numpy as np

from dynaface.core.sync.lips_to_sound import JAW_TRAIL, by_lips
from dynaface.sims.actor import act
from dynaface.sims.moment import heard, spoken_lines

CASES, SECONDS = 96, 16.0


def main() -> None:
    """Prints the median trail, dry and in a room, and of both, in seconds."""
    found: dict[str, list[float]] = {"near the mouth": [], "in a room": []}
    for case in range(CASES):
        rng = np.random.default_rng([31, case])
        room, phones = spoken_lines(SECONDS, rng, True)
        face = act(phones, SECONDS, case)
        recorded = heard(room, 0.0, SECONDS, 48_000, 0.0, rng.uniform(0, 0.01), rng)
        for where, sound in zip(found, (room, recorded), strict=True):
            found[where].append(JAW_TRAIL - by_lips(face, sound).offset)
    for where, trails in found.items():
        print(f"{where}: {np.median(trails):+.4f} s")
    print(f"both: {np.median([t for trails in found.values() for t in trails]):+.4f} s")


if __name__ == "__main__":
    main()
