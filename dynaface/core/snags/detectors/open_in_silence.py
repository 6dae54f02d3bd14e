"""Mouth open in silence: nobody speaks, and the mouth is open."""

import numpy as np

from dynaface.core.snags.snag import Detector, Evidence, Snag, merged, place, severity, step

LIMIT, QUIET = 0.22, -38.0  # opening; dB under the loudest
SHORTEST, EDGE = 0.35, 0.18  # seconds; lips part before the voice begins and close after it ends


def find(evidence: Evidence) -> list[Snag]:
    """One snag a stretch."""
    loud = evidence.loudness
    if loud is None or not evidence.has("jawOpen"):
        return []
    edge = evidence.frames(EDGE)
    wide = evidence.opening
    out = []
    for first, last in merged(loud < QUIET, 1, 2 * edge + evidence.frames(SHORTEST)):
        inner = np.zeros(len(wide), bool)
        inner[(first + edge if first else 0) : (last - edge + 1 if last < len(wide) - 1 else last + 1)] = True
        for a, b in merged(inner & (wide > LIMIT), evidence.frames(0.1), evidence.frames(SHORTEST)):
            measured = float(wide[a : b + 1].mean())
            out.append(Snag(
                "open in silence", "jaw", ("jawOpen",), a, b, severity(measured, LIMIT, 0.6), measured, LIMIT, "",
                "Nothing is said here, but the mouth is open.",
                (step("strength", [place(("jawOpen",), a, b)], evidence.frames(0.12), gain={"jawOpen": 0.1}),),
            ))  # fmt: skip
    return out


DETECTOR = Detector(
    "open in silence", "Mouth open in silence", "The mouth stands open while nobody speaks.", find, ("sound",)
)
