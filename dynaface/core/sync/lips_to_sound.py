"""The sync offset between sound and lips, estimated from sound energy and lip opening.

Normalised cross-correlation of two curves of openness over a range of lags, with a parabola through the peak
(Knapp & Carter 1976 give the family). The confidence says how far the best lag stands out from the next best.
"""

from dataclasses import replace

import numpy as np
from scipy.ndimage import gaussian_filter1d

from dynaface.core.curves.channels import Channels
from dynaface.core.curves.opening import spoken
from dynaface.core.errors import InputError
from dynaface.core.sound.sound import Sound, energy
from dynaface.core.sync.fit import Fit, Numbers, correlated, fitted, standard, top_of

WORK_RATE = 120.0
# How far lips trail the loudness of what they say, in seconds: a vowel is loudest early.
TRAIL = -0.015
# The same of the jaw's own opening against the onsets of what is loud, by which the place is found closer. Set by
# tools/lip_trail.py on some lines; bench/lip_sync.py and bench/line_up.py measure on others.
JAW_TRAIL = -0.006
CLOSER, BLUR, LOUD = 0.1, 0.03, -12.0  # seconds to either side, of smoothing, and dB below which it is quiet
EVEN = 0.5  # power of changes that are compared: what a few large syllables say must not outweigh all others
LEAST, PART = (
    3.0,
    0.6,
)  # seconds, and share of the shorter one, that overlap over wide ranges: any few words fit somewhere
APART = 0.12  # seconds between a place and the next best
NEAR, WIDE = (0.2, 0.2, 0.3), (0.3, 0.2, 0.3)  # floor, span and margin of `fitted` for a small range, and for any


def estimate(channels: Channels, sound: Sound, furthest: float = 0.75) -> Fit:
    """Where the sound begins against the face, of all places within +-furthest seconds that best fits sound and lips; both start at 0 of the take.

    Raises InputError where either is too short or shows nothing.
    """
    rate = WORK_RATE
    face, loud = _curves(channels, sound)
    half = int(furthest * rate)
    length = max(len(face), len(loud)) + 2 * half
    scores = np.zeros(2 * half + 1)
    for a, b in zip(_seen(face).T, _seen(loud).T, strict=True):
        size = 1 << (2 * length).bit_length()
        spectrum = np.fft.rfft(a, size) * np.conj(np.fft.rfft(b, size))
        correlation = np.fft.irfft(spectrum, size)
        scores += np.concatenate([correlation[-half:], correlation[: half + 1]]) / min(len(a), len(b))
    scores /= 2.0
    lags = (np.arange(len(scores)) - half) / rate
    found = fitted(lags, scores, APART, *NEAR)
    # A best place at either end may lie beyond it.
    inside = 0.02 < int(np.argmax(scores)) / len(scores) < 0.98
    offset = _closer(channels, loud, found.offset)
    return replace(found, offset=offset, confidence=found.confidence if inside else 0.0)


def by_lips(channels: Channels, sound: Sound) -> Fit:
    """Where the sound begins against the face, wherever that is; raises InputError as `estimate` does."""
    face, loud = _curves(channels, sound)
    least = max(LEAST, PART * min(len(face), len(loud)) / WORK_RATE)
    found = fitted(*correlated(_seen(face), _seen(loud), WORK_RATE, least), APART, *WIDE)
    return replace(found, offset=_closer(channels, loud, found.offset))


def _closer(channels: Channels, loud: Numbers, lag: float) -> float:
    """The offset near a lag by how fast the jaw opens and the voice swells; that of the lag where the jaw does nothing."""
    jaw = _resampled(channels, np.nan_to_num(channels.column("jawOpen")))
    changes = [gaussian_filter1d(c, BLUR * WORK_RATE, order=1, mode="nearest") for c in (jaw, np.maximum(loud, LOUD))]
    swell = [np.sign(c) * np.abs(c) ** EVEN for c in changes]
    lags = np.arange(round((lag - CLOSER) * WORK_RATE), round((lag + CLOSER) * WORK_RATE) + 1)
    scores = np.array([_alike(swell[0], swell[1], int(by)) for by in lags])
    best = int(np.argmax(scores))
    if scores[best] <= 0 or not 0 < best < len(lags) - 1:
        return lag + TRAIL
    return top_of(lags / WORK_RATE, scores) + JAW_TRAIL


def _alike(one: Numbers, other: Numbers, lag: int) -> float:
    """Correlation of two signals where they overlap when the other begins `lag` samples after the first; 0 where either does nothing."""
    low, high = max(0, lag), min(len(one), len(other) + lag)
    if high - low < WORK_RATE / 2:
        return 0.0
    pair = one[low:high], other[low - lag : high - lag]
    spread = float(pair[0].std() * pair[1].std())
    return float(np.cov(*pair, bias=True)[0, 1]) / spread if spread > 1e-12 else 0.0


def _curves(channels: Channels, sound: Sound) -> tuple[Numbers, Numbers]:
    """(how far the mouth does what is heard, loudness in dB), each at WORK_RATE; raises InputError where either says nothing."""
    if channels.seconds < 1.0 or sound.seconds < 1.0:
        raise InputError("at least one second of face and sound is needed to find the offset")
    face = _resampled(channels, spoken(channels))
    loud = energy(sound, WORK_RATE)
    if face.std() < 1e-4 or loud.std() < 1e-3:
        raise InputError("the mouth or the sound does nothing here, so there is nothing to line up")
    return face, np.maximum(loud, -35.0)


def _resampled(channels: Channels, curve: Numbers) -> Numbers:
    """A curve (frames,) of channels at WORK_RATE."""
    times = np.arange(int(channels.seconds * WORK_RATE)) / WORK_RATE
    return np.interp(times, np.arange(channels.frames) / float(channels.rate), curve)


def _seen(curve: Numbers) -> Numbers:
    """(n, 2) the curve and its change: the first fits the phrases, the second the syllables."""
    return standard(
        np.stack(
            [
                gaussian_filter1d(curve, blur * WORK_RATE, order=order, mode="nearest")
                for blur, order in ((0.05, 0), (0.03, 1))
            ],
            axis=1,
        )
    )
