"""Eyes that look different ways."""

import numpy as np

from dynaface.core.shapes.gaze import angles_from_looks
from dynaface.core.snags.snag import Detector, Evidence, Snag, merged, place, severity, step

OUTWARD, INWARD, UPRIGHT = 5.0, 15.0, 4.0  # degrees that two eyes may differ: apart, toward each other, up and down
SHORTEST = 0.08
LOOKS = tuple(f"eyeLook{way}{side}" for side in ("Left", "Right") for way in ("Out", "In", "Up", "Down"))
ANGLES = ("gazeTurnLeft", "gazeNodLeft", "gazeTurnRight", "gazeNodRight")


def _angles(evidence: Evidence) -> tuple[tuple[str, ...], list[np.ndarray]]:
    if evidence.has(*ANGLES):
        return ANGLES, [evidence.column(n) for n in ANGLES]
    if not evidence.has(*LOOKS):
        return (), []
    found: list[np.ndarray] = []
    for side in ("Left", "Right"):
        away, inward, up, down = (
            evidence.channels.column(f"eyeLook{way}{side}") for way in ("Out", "In", "Up", "Down")
        )
        found += angles_from_looks(away, inward, up, down, side.lower())
    return LOOKS, [a.astype(np.float64) for a in found]


def find(evidence: Evidence) -> list[Snag]:
    """One snag a stretch."""
    channels, angles = _angles(evidence)
    if not channels:
        return []
    turn_left, nod_left, turn_right, nod_right = angles
    apart = turn_left - turn_right  # positive: away from each other
    over = np.maximum.reduce([apart / OUTWARD, -apart / INWARD, np.abs(nod_left - nod_right) / UPRIGHT])
    out = []
    for first, last in merged(np.nan_to_num(over) > 1, evidence.frames(0.1), evidence.frames(SHORTEST)):
        at = first + int(np.nanargmax(over[first : last + 1]))
        sideways, upright = abs(apart[at]), abs(nod_left[at] - nod_right[at])
        measured, limit = (
            (upright, UPRIGHT)
            if upright / UPRIGHT >= over[at] - 1e-9
            else (sideways, OUTWARD if apart[at] > 0 else INWARD)
        )
        out.append(Snag(
            "gaze apart", "gaze", channels, first, last, severity(float(over[at]), 1, 3.5), float(measured), limit, "deg",
            f"The eyes look {measured:.0f}° past each other.",
            (step("pair sides", [place(channels, first, last)], 2, way=_steadier(evidence, angles, first, last)),),
        ))  # fmt: skip
    return out


def _steadier(evidence: Evidence, angles: list[np.ndarray], first: int, last: int) -> str:
    """Which eye goes on as before: the one that jumps least at both ends of the stretch."""
    jumps = []
    for turn, nod in (angles[:2], angles[2:]):
        total = 0.0
        for before, after in ((first - 2, first + 1), (last - 1, last + 2)):
            if before >= 0 and after < len(turn):
                total += abs(turn[after] - turn[before]) + abs(nod[after] - nod[before])
        jumps.append(total)
    return "left leads" if jumps[0] <= jumps[1] else "right leads"


DETECTOR = Detector(
    "gaze apart", "Eyes look apart", "The two eyes' directions differ more than those of one face do.", find
)
