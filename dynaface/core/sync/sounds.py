"""Two sounds of one moment: where the second begins against the first, and how far two recorders' clocks run apart.

First roughly, by how loudness rises in a few bands. Then, in many short windows, by cross-correlation of the samples with whitened phase
(Knapp & Carter 1976), which the rooms and microphones hardly touch; a line through what the windows say is offset and drift
(Theil 1950, then least squares over those that lie on it).
"""

import numpy as np
from scipy.fft import irfft, next_fast_len, rfft, rfftfreq
from scipy.ndimage import gaussian_filter1d
from scipy.signal import resample_poly, stft

from dynaface.core.errors import InputError
from dynaface.core.sound.sound import Sound
from dynaface.core.sync.fit import Fit, Numbers, correlated, fitted, standard

WORK = 16_000  # samples a second
HOP = 80  # samples: 5 ms
BANDS = ((150, 500), (500, 1200), (1200, 2800), (2800, 7000))  # Hz
LEAST = 2.0  # seconds of overlap
WINDOW, WINDOWS = 2.0, 40  # seconds, and at most so many of them
REACH = 0.12  # seconds about the rough offset in which a window looks
TOGETHER = 0.0015  # seconds within which a window lies on the line
MOST_DRIFT = 1000.0  # parts of a million
SHARP = 6.0  # deviations by which the peak of a window stands out


def by_sound(one: Sound, other: Sound) -> Fit:
    """Where the other sound begins against the first, with drift; raises InputError where one is silent or too short."""
    a, b = _work(one), _work(other)
    rough = fitted(*correlated(_rises(a), _rises(b), WORK / HOP, LEAST), 0.1, 0.15, 0.25, 0.15)
    at, off = _windows(a, b, rough.offset)
    if not len(at):
        return Fit(rough.offset, min(rough.confidence, 0.3), rough.lags, rough.scores)
    offset, slope, share = _line(at, off)
    sure = float(np.clip((share - 0.3) / 0.4, 0, 1) * np.clip(len(at) * share / 3, 0, 1))
    if abs(slope) > MOST_DRIFT * 1e-6:
        return Fit(rough.offset, 0.0, rough.lags, rough.scores)
    return Fit(offset, max(sure, 0.0), rough.lags, rough.scores, slope * 1e6)


def _work(sound: Sound) -> Numbers:
    mono = sound.mono().astype(np.float64)
    if sound.seconds < LEAST or np.abs(mono).max(initial=0) < 1e-5:
        raise InputError(
            f"a sound of {sound.seconds:.2f} s that is silent or short cannot be lined up; it needs {LEAST:g} s"
        )
    if sound.rate == WORK:
        return mono
    common = int(np.gcd(sound.rate, WORK))
    return np.asarray(resample_poly(mono, WORK // common, sound.rate // common), np.float64)


def _rises(samples: Numbers) -> Numbers:
    """(n, bands) how loudness rises and falls in each band, every HOP samples."""
    at, _, spectrum = stft(samples, WORK, nperseg=400, noverlap=400 - HOP, boundary="zeros", padded=True)
    power = np.abs(spectrum) ** 2
    loud = np.stack([power[(at >= low) & (at < high)].sum(axis=0) for low, high in BANDS], axis=1)
    level = 10 * np.log10(loud + 1e-12)
    level = np.maximum(level, np.percentile(level, 97, axis=0) - 45)
    return standard(gaussian_filter1d(level, 4, axis=0, order=1, mode="nearest"))


def _windows(a: Numbers, b: Numbers, rough: float) -> tuple[Numbers, Numbers]:
    """Of windows of the second sound: (seconds of their middles, offsets), those alone whose peak stands out."""
    size, reach = int(WINDOW * WORK), int(REACH * WORK)
    first, last = max(0, int(-rough * WORK) - reach), min(len(b), len(a) - int(rough * WORK) + reach) - size
    if last < first:
        return np.zeros(0), np.zeros(0)
    rows = []
    for begin in np.linspace(first, last, min(WINDOWS, 1 + (last - first) // (size // 2))).astype(int):
        low = begin + int(rough * WORK) - reach
        theirs, ours = b[begin : begin + size], np.zeros(size + 2 * reach)
        have = slice(max(low, 0), max(min(low + len(ours), len(a)), 0))
        part = a[have]
        ours[have.start - low : have.start - low + len(part)] = part
        lag = _whitened(ours, theirs, 2 * reach)
        if lag is not None:
            rows.append(((begin + size / 2) / WORK, (low + lag - begin) / WORK))
    table = np.array(rows).reshape(-1, 2)
    return table[:, 0], table[:, 1]


def _whitened(ours: Numbers, theirs: Numbers, lags: int) -> float | None:
    """Lag in samples, between them by a parabola; None where none stands out."""
    size = next_fast_len(len(ours) + len(theirs))
    spectrum = rfft(ours, size) * np.conj(rfft(theirs, size))
    band = rfftfreq(size, 1 / WORK)
    length = np.abs(spectrum)
    kept = (band > 120) & (band < 6500) & (length > 0)
    white = np.where(kept, spectrum / np.maximum(length, 1e-30) ** 0.85, 0)
    scores = irfft(white, size)[: lags + 1]
    spread = scores.std()
    best = int(np.argmax(scores))
    if spread <= 0 or not 0 < best < len(scores) - 1:
        return None
    if scores[best] - scores.mean() < SHARP * spread:
        return None
    below, at, above = scores[best - 1 : best + 2]
    curvature = below - 2 * at + above
    return best + (0.5 * (below - above) / curvature if curvature < 0 else 0.0)


def _line(at: Numbers, off: Numbers) -> tuple[float, float, float]:
    """(offset at 0, slope, share of the windows that lie on the line)."""
    if len(at) < 3 or np.ptp(at) < 4 * WINDOW:
        middle = float(np.median(off))
        return middle, 0.0, float((np.abs(off - middle) < TOGETHER).mean())
    i, j = np.triu_indices(len(at), 1)
    far = at[j] - at[i] > WINDOW
    slope = float(np.median((off[j] - off[i])[far] / (at[j] - at[i])[far]))
    offset = float(np.median(off - slope * at))
    for _ in range(3):
        near = np.abs(off - offset - slope * at) < TOGETHER
        if near.sum() < 3 or np.ptp(at[near]) < WINDOW:
            break
        slope, offset = (float(v) for v in np.polyfit(at[near], off[near], 1))
    return offset, slope, float((np.abs(off - offset - slope * at) < TOGETHER).mean())
