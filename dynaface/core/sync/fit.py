"""How two recordings of one moment lie against each other: an offset that was found, how sure it is, and the picture of the fit."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.fft import irfft, next_fast_len, rfft

from dynaface.core.errors import InputError

CONFIDENT = 0.5
SILENT = 1e-4  # of the most that is heard or seen in any overlap
ABOUT, BARS = 3.0, 160  # seconds to either side of the best lag in a picture that is kept, and how many scores it has
SHORT = 2.0  # seconds of overlap that count half: a short overlap fits by chance

Numbers = NDArray[np.float64]


@dataclass(frozen=True)
class Fit:
    """offset: seconds after the beginning of the first recording at which the second begins; negative: before it. confidence: 0..1;
    lags (seconds) and scores (-1..1): the picture of the fit; drift: by how many parts of a million a second of the second recording
    lasts longer than one of the first.
    """

    offset: float
    confidence: float
    lags: Numbers
    scores: Numbers
    drift: float = 0.0

    @property
    def confident(self) -> bool:
        """Whether it should be offered as sure."""
        return self.confidence >= CONFIDENT


def thinned(fit: Fit, most: int = 600) -> tuple[Numbers, Numbers]:
    """The picture of a fit as at most so many (lags, scores), the best of each run of lags."""
    every = -(-len(fit.scores) // most) if len(fit.scores) else 1
    starts = range(0, len(fit.scores), every)
    best = np.array([first + int(np.argmax(fit.scores[first : first + every])) for first in starts], int)
    return fit.lags[best], fit.scores[best]


@dataclass(frozen=True)
class FitPicture:
    """A fit about its best lag, small enough to be kept. first, step: seconds of the first lag and between lags; scores: the best about each, in
    hundredths, -100..100; offset: seconds that were found.
    """

    first: float
    step: float
    scores: tuple[int, ...]
    offset: float


def picture_of(fit: Fit) -> FitPicture | None:
    """The picture that is kept of a fit; None of one that compared nothing, such as counts."""
    near = np.abs(fit.lags - fit.offset) <= ABOUT
    lags, scores = fit.lags[near], fit.scores[near]
    if len(lags) < 2:
        return None
    edges = np.linspace(lags[0], lags[-1], min(BARS, len(lags)) + 1)
    bar = np.clip(np.searchsorted(edges, lags, "right") - 1, 0, len(edges) - 2)
    best = np.full(len(edges) - 1, -1.0)
    np.maximum.at(best, bar, scores)
    step = float(edges[1] - edges[0])
    return FitPicture(
        float(edges[0] + step / 2), step, tuple(int(s) for s in np.round(np.clip(best, -1, 1) * 100)), fit.offset
    )


def standard(signal: Numbers) -> Numbers:
    """(n, dimensions) with mean 0 and deviation 1 in each dimension; one that does nothing is 0."""
    spread = signal.std(axis=0)
    return (signal - signal.mean(axis=0)) / np.where(spread > 1e-9, spread, np.inf)


def correlated(one: Numbers, other: Numbers, rate: float, least: float) -> tuple[Numbers, Numbers]:
    """(lags in seconds, scores -1..1) of two signals (n, dimensions) and (m, dimensions) at a rate, over all lags at which they overlap by
    `least` seconds; each score is normalised by what overlaps. Raises InputError where none do.
    """
    n, m = len(one), len(other)
    lags = np.arange(-(m - 1), n)
    low, high = np.maximum(lags, 0), np.minimum(lags + m, n)
    kept = high - low >= max(least * rate, 2)
    if not kept.any():
        raise InputError(f"the recordings are too short to be lined up; each needs {least:g} s")
    size = next_fast_len(n + m)
    spectrum = (rfft(one, size, axis=0) * np.conj(rfft(other, size, axis=0))).sum(axis=1)
    raw = irfft(spectrum, size)[lags % size]
    energies = [np.concatenate([[0.0], np.cumsum((s**2).sum(axis=1))]) for s in (one, other)]
    own = energies[0][high] - energies[0][low]
    theirs = energies[1][high - lags] - energies[1][low - lags]
    overlap = (high - low) / rate
    # Where nothing overlaps but silence, nothing is said.
    loud = (own > SILENT * own.max()) & (theirs > SILENT * theirs.max())
    scores = np.divide(raw, np.sqrt(own * theirs), out=np.zeros(len(raw)), where=loud)
    scores *= np.sqrt(overlap / (overlap + SHORT))
    return lags[kept] / rate, scores[kept]


def top_of(lags: Numbers, scores: Numbers) -> float:
    """The best lag, between samples by a parabola."""
    best = int(np.argmax(scores))
    step = float(lags[1] - lags[0]) if len(lags) > 1 else 0.0
    shift = 0.0
    if 0 < best < len(scores) - 1:
        below, at, above = scores[best - 1 : best + 2]
        curvature = below - 2 * at + above
        shift = 0.5 * (below - above) / curvature if curvature < 0 else 0.0
    return float(lags[best] + shift * step)


def fitted(lags: Numbers, scores: Numbers, apart: float, floor: float, span: float, margin: float) -> Fit:
    """The best lag, between samples by a parabola. It is sure where its score lies `span` above `floor`, and the next best, more than
    `apart` seconds away, lies below it by the share `margin` of its own.
    """
    best = int(np.argmax(scores))
    away = np.abs(lags - lags[best]) > apart
    rival = float(scores[away].max()) if away.any() else 0.0
    ahead = (scores[best] - max(rival, 0.0)) / max(float(scores[best]), 1e-9)
    sure = float(np.clip((scores[best] - floor) / span, 0, 1) * np.clip(ahead / margin, 0, 1))
    return Fit(top_of(lags, scores), sure, lags, scores)
