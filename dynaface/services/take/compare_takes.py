"""Another take of the same moment laid beside a take, frame by frame."""

from typing import Any

import numpy as np

from dynaface.core.curves.channels import Channels
from dynaface.core.curves.compare import compare
from dynaface.core.curves.rerate import at_rate
from dynaface.core.errors import InputError
from dynaface.services.take.prepare_take import prepare_take
from dynaface.services.work import Work


def compare_takes(work: Work, take: str, other: str) -> tuple[dict[str, Any], dict[str, np.ndarray]]:
    """(head, {"other": (frames, channels) of the other take on this one's frames, NaN where it has none}).

    Both are taken as tidied; timecode puts them together where both have it, else both begin at frame 0. The head has
    the numbers by channel: RMS and peak of the difference, jitter of both in units/s^3.
    """
    first_take, second = prepare_take(work, take), prepare_take(work, other)
    if first_take.take.production != second.take.production:
        raise InputError("the other take belongs to another production")
    ours, theirs = first_take.tidied, second.tidied
    shift, how = _shift(ours, theirs)
    moved = at_rate(theirs, ours.rate)
    aligned = np.full(ours.values.shape, np.nan, np.float32)
    first, last = max(0, shift), min(ours.frames, shift + moved.frames)
    if last <= first:
        raise InputError("the two takes have no moment in common by their timecodes")
    for column, name in enumerate(ours.names):
        if name in moved.names:
            aligned[first:last, column] = moved.column(name)[first - shift : last - shift]
    rate = float(ours.rate)
    numbers = {}
    for column, name in enumerate(ours.names):
        found = compare(ours.values[first:last, column], aligned[first:last, column], rate)
        numbers[name] = [round(v, 5) for v in (found.rms, found.peak, found.jitter_before, found.jitter_after)]
    head = {
        "channels": list(ours.names),
        "shift": shift,
        "by": how,
        "slate": second.take.body.slate,
        "numbers": numbers,
    }
    return head, {"other": aligned}


def _shift(ours: Channels, theirs: Channels) -> tuple[int, str]:
    if ours.timecode is None or theirs.timecode is None:
        return 0, "start"
    return round((theirs.timecode.seconds - ours.timecode.seconds) * float(ours.rate)), "timecode"
