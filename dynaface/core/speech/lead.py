"""Where words lead: how much something counts over time, less under what is said."""

from collections.abc import Sequence

import numpy as np

from dynaface.core import checks
from dynaface.core.curves.keys import Key, Keys
from dynaface.core.speech.words import Word, phrases

USUAL = 0.08  # seconds that a phone takes, for which leads are given
APART = 1e-3  # frames between keys that would lie on one another


def lead(words: Sequence[Word], rate: float, frames: int, low: float, lead_in: float, lead_out: float, by_word: bool, high: float = 1.0
         ) -> Keys:  # fmt: skip
    """Keys of a weight that is `low` under the words and `high` elsewhere. lead_in, lead_out: seconds over which it goes down before and up
    after each word (by_word) or each phrase, at a usual speed of speech; a quicker word there has shorter ones. () where nothing is said.
    """
    checks.within("low", low, 0, 1.5)
    said = [(w.first, w.last) for w in sorted(words, key=lambda w: w.first)] if by_word else phrases(words)
    spans: list[list[float]] = []
    for first, last in said:
        inside = [w for w in words if first <= w.first < last]
        begins = first - lead_in * _pace(min(inside, key=lambda w: w.first))
        ends = last + lead_out * _pace(max(inside, key=lambda w: w.last))
        if spans and begins <= spans[-1][3]:
            # No time to come up between the two.
            spans[-1][2:] = [last, ends]
        else:
            spans.append([begins, first, last, ends])
    keys: list[Key] = []
    for span in spans:
        for at, value in zip(span, (high, low, low, high), strict=True):
            frame = min(max(at * rate, 0.0), float(frames - 1))
            if not keys or frame > keys[-1].frame + APART:
                keys.append(Key(round(frame, 3), value, kind="smooth"))
            else:
                keys[-1] = Key(keys[-1].frame, value, kind="smooth")
    return tuple(keys)


def _pace(word: Word) -> float:
    """How slowly a word is said, 0.5..2: 1 where its phones take as long as usual."""
    lengths = [p.last - p.first for p in word.phones]
    return float(np.clip(np.mean(lengths) / USUAL, 0.5, 2.0)) if lengths else 1.0
