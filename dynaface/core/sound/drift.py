"""A sound whose recorder ran too fast or too slow, on the clock of another one."""

import numpy as np
from scipy.ndimage import map_coordinates

from dynaface.core import checks
from dynaface.core.sound.sound import Sound

MOST = 2000.0  # parts of a million that a recorder may run wrong
ORDER = 5  # of the spline between samples, which leaves a voice as it is


def without_drift(sound: Sound, drift: float) -> Sound:
    """The sound with each of its seconds as long as it was for the other recorder. drift: by how many parts of a million they last longer;
    raises InputError beyond `MOST`.
    """
    longer = 1 + checks.within("drift", drift, -MOST, MOST) / 1e6
    count = round(len(sound.samples) * longer)
    if longer == 1 or not count:
        return sound
    at = np.arange(count) / longer
    made = [map_coordinates(channel, [at], np.float32, ORDER, mode="nearest") for channel in sound.samples.T]
    return Sound(np.clip(np.stack(made, axis=1), -1, 1), sound.rate, sound.timecode)
