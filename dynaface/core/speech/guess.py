"""What may be said where there is no text: syllables by loudness, vowels by the lowest two resonances (linear prediction, Markel & Gray
1976). Rough: consonants are only told apart as hissed or not.
"""

import numpy as np
from scipy.linalg import solve_toeplitz
from scipy.ndimage import gaussian_filter1d
from scipy.signal import find_peaks

from dynaface.core.curves.known_runs import runs
from dynaface.core.sound.sound import Sound
from dynaface.core.speech.cepstra import Array, heard_at
from dynaface.core.speech.words import Phone, Word

RATE, HOP, WINDOW = 10_000, 100, 300  # samples a second; 10 ms, 30 ms
ORDER = 12
SOFT = 3.0  # steps over which loudness is evened out
FALL = 3.0  # decibels between two syllables
RANGE = 30.0  # decibels below the loudest that are still speech
PAUSE = 0.18  # seconds of quiet that part two stretches
UNSAID = "~"
"""What stands for a word that nobody wrote."""
# The lowest two resonances of vowels in Hz, between those of men and women (Peterson & Barney 1952).
RESONANCES = {
    "IY": (290, 2500), "IH": (410, 2200), "EH": (570, 2050), "AE": (760, 1870), "AH": (690, 1290), "AA": (780, 1150), "AO": (580, 880),
    "UH": (450, 1080), "UW": (330, 910), "ER": (500, 1500),
}  # fmt: skip


def guess_words(sound: Sound) -> list[Word]:
    """Stretches of speech as words of vowels and consonants, in seconds of the sound; [] where nothing is heard."""
    samples = heard_at(sound, RATE)
    if len(samples) < WINDOW or float(np.abs(samples).max()) < 1e-4:
        return []
    steps = (len(samples) - WINDOW) // HOP + 1
    frames = samples[np.arange(steps)[:, None] * HOP + np.arange(WINDOW)] * np.hamming(WINDOW)
    loud = gaussian_filter1d(10 * np.log10(np.mean(frames**2, axis=1) + 1e-10), SOFT)
    least = max(loud.max() - RANGE, float(np.percentile(loud, 10)) + 6.0)
    return [_stretch(frames, loud, first, last) for first, last in _stretches(loud > least)]


def _stretches(speaks: np.ndarray) -> list[tuple[int, int]]:
    """(first, last) step of each stretch of speech, short pauses within it."""
    out: list[tuple[int, int]] = []
    for first, stop in runs(speaks):
        if out and first - out[-1][1] < PAUSE * RATE / HOP:
            out[-1] = (out[-1][0], stop - 1)
        else:
            out.append((first, stop - 1))
    return [(a, b) for a, b in out if b - a >= 4]


def _stretch(frames: Array, loud: Array, first: int, last: int) -> Word:
    """One stretch as a word: a vowel about each peak of loudness, a consonant in each valley."""
    own = loud[first : last + 1]
    peaks = [int(p) + first for p in find_peaks(own, prominence=FALL)[0]] or [first + int(np.argmax(own))]
    valleys = [first, *(a + int(np.argmin(loud[a : b + 1])) for a, b in zip(peaks, peaks[1:], strict=False)), last + 1]
    phones: list[Phone] = []
    for peak, low, high in zip(peaks, valleys, valleys[1:], strict=False):
        # Half of a valley is its consonant, unless the stretch begins with the vowel.
        edge = low + max((peak - low) // 2, 1)
        if edge < peak:
            phones.append(Phone(_consonant(frames[low]), _at(low), _at(edge)))
        phones.append(Phone(_vowel(frames[peak]), _at(min(edge, peak)), _at(high)))
    return Word(UNSAID, phones[0].first, phones[-1].last, tuple(phones))


def _at(step: int) -> float:
    return step * HOP / RATE


def _consonant(frame: Array) -> str:
    """S where most of what is heard lies above 3 kHz, else T."""
    power = np.abs(np.fft.rfft(frame)) ** 2
    bins = np.fft.rfftfreq(len(frame), 1 / RATE)
    return "S" if power[bins > 3000].sum() > power[bins <= 3000].sum() else "T"


def _vowel(frame: Array) -> str:
    """The vowel whose resonances are nearest to those of a frame."""
    one, two = resonances(frame)
    return min(RESONANCES, key=lambda v: abs(np.log(one / RESONANCES[v][0])) + abs(np.log(two / RESONANCES[v][1])))


def resonances(frame: Array) -> tuple[float, float]:
    """The lowest two resonances in Hz of a frame (samples,) at RATE, by linear prediction; those of a plain vowel where there are none."""
    raised = np.append(frame[:1], frame[1:] - 0.95 * frame[:-1])
    autocorrelation = np.correlate(raised, raised, "full")[len(raised) - 1 : len(raised) + ORDER]
    if autocorrelation[0] <= 1e-9:
        return 500.0, 1500.0
    autocorrelation[0] *= 1 + 1e-6
    taps = solve_toeplitz(autocorrelation[:ORDER], autocorrelation[1 : ORDER + 1])
    roots = np.roots(np.concatenate([[1.0], -taps]))
    roots = roots[np.imag(roots) > 0.01]
    pitch = np.angle(roots) * RATE / (2 * np.pi)
    width = -np.log(np.maximum(np.abs(roots), 1e-6)) * RATE / np.pi
    found = sorted(float(p) for p, w in zip(pitch, width, strict=True) if 200 < p < 3500 and w < 500)
    return (found[0], found[1]) if len(found) >= 2 else (500.0, 1500.0)
