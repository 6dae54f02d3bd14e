"""Gap: frames that are not there."""

import numpy as np

from dynaface.core.shapes.regions import region_of
from dynaface.core.snags.snag import Detector, Evidence, Snag, merged, place, severity, step

MAX_FILLED = 1000


def find(evidence: Evidence) -> list[Snag]:
    """One snag a stretch, for all channels that share it."""
    missing = np.isnan(evidence.channels.values)
    out = []
    seen: dict[tuple[int, int], list[str]] = {}
    for column in np.flatnonzero(missing.any(axis=0)):
        for span in merged(missing[:, column], 0):
            seen.setdefault(span, []).append(evidence.channels.names[column])
    for (first, last), names in sorted(seen.items()):
        channels = tuple(names)
        frames = last - first + 1
        seconds = frames / evidence.rate
        what = "Nothing was recorded" if len(names) > 20 else f"{names[0]} was not recorded"
        out.append(Snag(
            "gap", region_of(channels[0]), channels, first, last, severity(seconds, 0, 1.0), frames, 0, "frames",
            f"{what} for {frames} frames.",
            (step("fill gaps", [place(channels, first, last)], longest=min(frames + 1, MAX_FILLED)),),
        ))  # fmt: skip
    return out


DETECTOR = Detector("gap", "Gap", "Frames without a value, longer than was bridged when time was evened out.", find)
