"""The sound of a delivery, cut to its frames."""

import numpy as np

from dynaface.core.handover.delivery import Delivery
from dynaface.core.sound.sound import Sound


def heard(delivery: Delivery) -> Sound:
    """The sound from the first frame to the last, silent where it has not begun or is over."""
    voice, channels = delivery.voice, delivery.first.performance.channels
    assert voice is not None
    assert voice.sound is not None
    sound = voice.sound
    count = round(channels.frames * sound.rate / float(channels.rate))
    begins = round(voice.offset * sound.rate)
    out = np.zeros((count, sound.samples.shape[1]), np.float32)
    first, stop = max(begins, 0), min(begins + len(sound.samples), count)
    if stop > first:
        out[first:stop] = sound.samples[first - begins : stop - begins]
    return Sound(np.clip(out, -1, 1), sound.rate, channels.timecode)


def heard_name(delivery: Delivery) -> str:
    """Of the file."""
    return f"{delivery.name}.wav"
