"""What all files of markers share: their units of length, and what is reported of them."""

from typing import Any

import numpy as np

from dynaface.core.markers.take import MarkerTake

UNITS = {"mm": 1e-3, "cm": 1e-2, "dm": 1e-1, "m": 1.0, "in": 0.0254, "ft": 0.3048}  # metres


def describe_markers(take: MarkerTake) -> dict[str, Any]:
    """The report of markers for people: how many, how long, how much was lost."""
    lost = int(np.isnan(take.points[..., 0]).sum())
    return {
        "markers": len(take.labels),
        "labels": list(take.labels)[:200],
        "frames": take.frames,
        "seconds": round(take.frames / float(take.rate), 3),
        "rate": str(take.rate),
        "timecode": str(take.timecode) if take.timecode else "",
        "lost": lost,
        "notes": [f"{lost / take.points[..., 0].size:.1%} of all samples are lost"] if lost else [],
    }
