"""Several sounds mixed to one, sample by sample."""

from collections.abc import Sequence
from dataclasses import dataclass
from fractions import Fraction

import numpy as np

from dynaface.core.curves.channels import Floats
from dynaface.core.sound.sound import Sound


@dataclass(frozen=True)
class Part:
    """A stretch of a sound. start: seconds in the mix; first, last: seconds of the sound, which may begin before and end after it;
    speed: at which it runs, its pitch with it; gain: 0..4; fades in seconds.
    """

    sound: Sound
    start: Fraction
    first: Fraction
    last: Fraction
    speed: Fraction = Fraction(1)
    gain: float = 1.0
    fade_in: Fraction = Fraction(0)
    fade_out: Fraction = Fraction(0)

    @property
    def stop(self) -> Fraction:
        """Where it ends in the mix."""
        return self.start + (self.last - self.first) / self.speed


def mix(parts: Sequence[Part], rate: int, seconds: Fraction | None = None) -> Sound:
    """All parts as one channel at `rate` samples a second, as long as the longest of them, at least `seconds`; nothing is cut.

    A part at the mix's own rate and speed 1 that begins on a sample is taken over unchanged. Peaks beyond 1 turn the whole down.
    """
    stop = max([Fraction(0), *(p.stop for p in parts), *([seconds] if seconds is not None else [])])
    out = np.zeros(round(stop * rate), np.float64)
    for part in parts:
        low, high = max(round(part.start * rate), 0), min(round(part.stop * rate), len(out))
        if high <= low:
            continue
        at = np.arange(low, high)
        heard = _heard(part, at, rate).astype(np.float64) * part.gain
        if part.fade_in > 0:
            heard *= np.clip((at / rate - float(part.start)) / float(part.fade_in), 0, 1)
        if part.fade_out > 0:
            heard *= np.clip((float(part.stop) - at / rate) / float(part.fade_out), 0, 1)
        out[low:high] += heard
    peak = float(np.abs(out).max(initial=0))
    return Sound((out / max(peak, 1.0)).astype(np.float32)[:, None], rate)


def _heard(part: Part, at: np.ndarray, rate: int) -> Floats:
    """(n,) samples of a part at samples of the mix (n,); silence beyond the sound's own ends."""
    mono = part.sound.mono()
    step = part.speed * part.sound.rate / rate
    begin = (part.first - part.start * part.speed) * part.sound.rate
    if step == 1 and begin.denominator == 1:
        index = at + int(begin)
        inside = (index >= 0) & (index < len(mono))
        return np.where(inside, mono[np.clip(index, 0, max(len(mono) - 1, 0))] if len(mono) else 0, 0).astype(
            np.float32
        )
    place = at * float(step) + float(begin)
    return (
        np.interp(place, np.arange(len(mono)), mono, left=0, right=0).astype(np.float32)
        if len(mono)
        else np.zeros(len(at), np.float32)
    )
