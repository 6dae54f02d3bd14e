"""How loud each word is against those about it."""

from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from dynaface.core.sound.sound import Sound, energy
from dynaface.core.speech.words import Word

STEPS = 100.0  # a second
DECIBELS = 12.0  # by which a word has to be louder to count twice


def with_loudness(words: Sequence[Word], sound: Sound) -> list[Word]:
    """The words with their loudness, 0.5..2: what their loudest quarter is above or below the median word."""
    if not words:
        return []
    heard = energy(sound, STEPS)
    levels = []
    for word in words:
        low, high = (int(np.clip(t * STEPS, 0, len(heard) - 1)) for t in (word.first, word.last))
        levels.append(float(np.percentile(heard[low : high + 1], 75)))
    middle = float(np.median(levels))
    factors = np.clip(2.0 ** ((np.asarray(levels) - middle) / DECIBELS), 0.5, 2.0)
    return [replace(w, loud=round(float(f), 3)) for w, f in zip(words, factors, strict=True)]
