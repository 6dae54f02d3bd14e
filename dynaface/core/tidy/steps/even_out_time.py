"""Even out time: resampling by time stamps, doubled frames merged, short gaps bridged, long gaps left as gaps."""

from collections.abc import Mapping
from typing import Any

import numpy as np

from dynaface.core.clock.rates import parse_rate
from dynaface.core.curves.channels import Channels, Recording
from dynaface.core.curves.resample import merge_doubled, resample
from dynaface.core.curves.timing import DOUBLED
from dynaface.core.errors import LimitError
from dynaface.core.parameters import Parameter
from dynaface.core.tidy.step import Step

MAX_FRAMES = 4_000_000


def apply(recording: Recording, parameters: Mapping[str, Any]) -> Channels:
    """A Recording onto frames at one rate, frame 0 at its first time stamp; raises LimitError for more than MAX_FRAMES."""
    rate = recording.rate if parameters["rate"] == "as recorded" else parse_rate(parameters["rate"])
    times, values = merge_doubled(recording.times, recording.values, DOUBLED / float(recording.rate))
    start = float(times[0]) if len(times) else 0.0
    frames = int(np.floor((float(times[-1]) - start) * float(rate) + 0.5)) + 1 if len(times) else 0
    if frames > MAX_FRAMES:
        raise LimitError(
            f"the time stamps span {float(times[-1]) - start:.0f} s, which is {frames} frames",
            hint=f"At most {MAX_FRAMES} frames; are the time stamps in another unit?",
        )
    out_times = start + np.arange(frames) / float(rate)
    # One frame more than asked: a gap of n lost frames is n + 1 steps long.
    bridge = (parameters["bridge"] + 1.5) / float(recording.rate)
    return Channels(recording.names, resample(times, values, out_times, bridge), rate, start, recording.timecode)


STEP = Step(
    name="even out time",
    label="Even out time",
    kind="retiming",
    help="Puts frames at even times from the device's own time stamps. Doubled frames become one, short losses are "
    "bridged, long ones stay gaps. Always first.",
    parameters=(
        Parameter("rate", "Rate", "choice", "as recorded", "fps",
                  options=("as recorded", "24", "25", "30", "48", "50", "60", "90", "120"),
                  help="The rate from here on."),
        Parameter("bridge", "Bridge up to", "number", 6, "frames", 0, 60, 1,
                  help="The longest run of lost frames that is filled; a longer one is marked as a gap."),
    ),
    apply=apply,
    gaps="bridged",
)  # fmt: skip
