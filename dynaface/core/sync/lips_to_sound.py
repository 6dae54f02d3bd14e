"""The sync offset between sound and lips, estimated from sound energy and lip opening.

Normalised cross-correlation of two curves of openness over a range of lags, with a parabola through the peak
(Knapp & Carter 1976 give the family). The confidence says how far the best lag stands out from the next best.
"""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import gaussian_filter1d

from dynaface.core.curves.channels import Channels
from dynaface.core.curves.opening import spoken
from dynaface.core.errors import InputError
from dynaface.core.sound.sound import Sound, energy

WORK_RATE = 120.0
# How far jaw and lips trail the loudness of what they say, in seconds: a vowel is loudest early. Set on the demo's
# three lines; bench/lip_sync.py measures on other lines and voices.
TRAIL = -0.027
CONFIDENT = 0.5


@dataclass(frozen=True)
class LipSync:
    """offset: seconds to add to sound times so that it fits the face (negative: the sound is late in the file).

    confidence 0..1; lags (seconds) and scores (-1..1) draw the picture of the fit; fitted curves are at `rate`.
    """

    offset: float
    confidence: float
    lags: NDArray[np.float64]
    scores: NDArray[np.float64]

    @property
    def confident(self) -> bool:
        """Whether the estimate should be offered as sure."""
        return self.confidence >= CONFIDENT


def _standard(curve: NDArray[np.float64]) -> NDArray[np.float64]:
    spread = curve.std()
    return (curve - curve.mean()) / spread if spread > 1e-9 else np.zeros_like(curve)


def estimate(channels: Channels, sound: Sound, furthest: float = 0.75) -> LipSync:
    """Finds the offset within +-furthest seconds that best fits sound and lips; both start at 0 of the take.

    Raises InputError where either is too short or shows nothing.
    """
    if channels.seconds < 1.0 or sound.seconds < 1.0:
        raise InputError("at least one second of face and sound is needed to find the offset")
    rate = WORK_RATE
    times = np.arange(int(channels.seconds * rate)) / rate
    face = np.interp(times, np.arange(channels.frames) / float(channels.rate), spoken(channels))
    loud = energy(sound, rate)
    if face.std() < 1e-4 or loud.std() < 1e-3:
        raise InputError("the mouth or the sound does nothing here, so there is nothing to line up")
    half = int(furthest * rate)
    length = max(len(face), len(loud)) + 2 * half
    scores = np.zeros(2 * half + 1)
    # Openness and its change: the first fits the phrases, the second the syllables.
    for blur, weight, derive in ((0.05, 1.0, 0), (0.03, 1.0, 1)):
        a = gaussian_filter1d(face, blur * rate, order=derive, mode="nearest")
        b = gaussian_filter1d(np.maximum(loud, -35.0), blur * rate, order=derive, mode="nearest")
        a, b = _standard(a), _standard(b)
        size = 1 << (2 * length).bit_length()
        spectrum = np.fft.rfft(a, size) * np.conj(np.fft.rfft(b, size))
        correlation = np.fft.irfft(spectrum, size)
        scores += weight * np.concatenate([correlation[-half:], correlation[: half + 1]]) / min(len(a), len(b))
    scores /= 2.0
    best = int(np.argmax(scores))
    shift = 0.0
    if 0 < best < len(scores) - 1:
        below, at, above = scores[best - 1 : best + 2]
        curvature = below - 2 * at + above
        shift = 0.5 * (below - above) / curvature if curvature < 0 else 0.0
    apart = np.abs(np.arange(len(scores)) - best) > 0.12 * rate
    rival = scores[apart].max() if apart.any() else 0.0
    inside = 0.02 < best / len(scores) < 0.98
    margin = (scores[best] - rival) / max(scores[best], 1e-9)
    confidence = float(np.clip((scores[best] - 0.2) / 0.2, 0, 1) * np.clip(margin / 0.3, 0, 1)) if inside else 0.0
    lags = (np.arange(len(scores)) - half) / rate
    return LipSync((best - half + shift) / rate + TRAIL, confidence, lags, scores)
