"""What is said of footage of any format, and how large its pictures may be."""

from typing import Any

import numpy as np

from dynaface.core.track.footage import Footage

MAX_SIDE = 4096  # pixels each way


def footage_findings(footage: Footage) -> dict[str, Any]:
    """What is found of footage, with notes on what may spoil a solve."""
    steps = np.diff(footage.times)
    uneven = bool(len(steps) and steps.max() > 1.5 * np.median(steps))
    notes = ["pictures come unevenly in time"] if uneven else []
    if float(footage.rate) < 20:
        notes.append("fewer than 20 pictures a second: blinks and lip closures may be missed")
    return {
        "seconds": footage.seconds,
        "frames": footage.frames,
        "rate": str(footage.rate),
        "width": footage.width,
        "height": footage.height,
        "codec": footage.codec,
        "sound": footage.sound,
        "timecode": str(footage.timecode) if footage.timecode else "",
        "notes": notes,
    }
