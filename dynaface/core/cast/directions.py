"""Corrections to the direction in which jaw and lip corners travel."""

from collections.abc import Mapping

import numpy as np

from dynaface.core.cast.study import Study
from dynaface.core.curves.channels import Floats

# How far the standard head's jaw goes when it opens, against how far it goes aside or forward.
OPEN_TO_ASIDE, OPEN_TO_FORWARD = 2.6, 3.2


def turn_directions(driven: Floats, index: Mapping[str, int], directions: Mapping[str, float], study: Study | None
                    ) -> Floats:  # fmt: skip
    """The channels with their travel turned by degrees; what would go below rest goes the opposite way instead.

    "jaw aside" turns the opening jaw to the character's left, "jaw forward" to the front; "lips left", "lips right" turn the
    travel of that corner upward.
    """
    if not any(directions.values()):
        return driven
    out = driven.copy()

    def column(name: str) -> Floats:
        return out[:, index[name]] if name in index else np.zeros(len(out), np.float32)

    def put(name: str, values: Floats) -> None:
        if name in index:
            out[:, index[name]] = values

    aside, forward = ((study.travel.get(k, d) if study else d)
                      for k, d in (("open to aside", OPEN_TO_ASIDE), ("open to forward", OPEN_TO_FORWARD)))  # fmt: skip
    if directions.get("jaw aside"):
        left, right = column("jawLeft"), column("jawRight")
        both = np.minimum(left, right)
        down, across = _turned(column("jawOpen") * aside, left - right, directions["jaw aside"])
        put("jawOpen", down / aside)
        put("jawLeft", np.maximum(across, 0) + both)
        put("jawRight", np.maximum(-across, 0) + both)
    if directions.get("jaw forward"):
        down, ahead = _turned(column("jawOpen") * forward, column("jawForward"), directions["jaw forward"])
        put("jawOpen", down / forward)
        put("jawForward", ahead)
    for side in ("Left", "Right"):
        degrees = directions.get(f"lips {side.lower()}")
        if degrees:
            smile, frown = column(f"mouthSmile{side}"), column(f"mouthFrown{side}")
            both = np.minimum(smile, frown)
            out_, up = _turned(column(f"mouthStretch{side}"), smile - frown, degrees)
            put(f"mouthStretch{side}", np.maximum(out_, 0))
            put(f"mouthSmile{side}", np.maximum(up, 0) + both)
            put(f"mouthFrown{side}", np.maximum(-up, 0) + both)
    return out


def _turned(first: Floats, second: Floats, degrees: float) -> tuple[Floats, Floats]:
    """Turns the first direction toward the second."""
    cos, sin = np.float32(np.cos(np.radians(degrees))), np.float32(np.sin(np.radians(degrees)))
    return first * cos - second * sin, second * cos + first * sin
