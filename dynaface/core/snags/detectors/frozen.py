"""Lost or frozen tracking: everything stands still to the last digit while it should move."""

import numpy as np

from dynaface.core.snags.snag import Detector, Evidence, Snag, merged, place, severity, step

SHORTEST = 0.1  # seconds
STILL = 1e-6
FEWEST = 4  # channels that move elsewhere in the take


def find(evidence: Evidence) -> list[Snag]:
    """One snag a stretch, for all channels that move in this take."""
    values = evidence.scaled
    change = np.abs(np.diff(values, axis=0))
    moves = np.nan_to_num(np.nanmax(np.nan_to_num(change), axis=0)) > 1e-4
    # A weight at rest at 0 may well be exactly still; what counts is what moves on most frames.
    often = np.nan_to_num(change > STILL).mean(axis=0) > 0.5
    busy = np.flatnonzero(moves & often)
    if len(busy) < FEWEST:
        return []
    still = (change[:, busy] <= STILL).all(axis=1)
    channels = tuple(evidence.channels.names[i] for i in np.flatnonzero(moves))
    out = []
    for first, last in merged(still, 0, evidence.frames(SHORTEST)):
        last += 1  # a change lies between two frames
        seconds = (last - first) / evidence.rate
        out.append(Snag(
            "frozen", "head" if "headTurn" in channels else "lips", channels, first, last, severity(seconds, 0, 1.0), seconds,
            SHORTEST, "s", f"The whole face stands still for {seconds:.2f} s: tracking was lost here.",
            (step("bridge over", [place(channels, first + 1, last)], 1),),
        ))  # fmt: skip
    return out


DETECTOR = Detector("frozen", "Lost tracking", "Every channel keeps its value to the last digit for a while.", find)
