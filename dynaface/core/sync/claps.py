"""A clap: a sharp sound, and hands that meet. Recordings that saw or heard the same claps lie where these fall together."""

from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import gaussian_filter1d, maximum_filter1d, minimum_filter1d
from scipy.signal import resample_poly

from dynaface.core.body.skeleton import Motion
from dynaface.core.errors import InputError
from dynaface.core.match.anatomy import anatomy_of
from dynaface.core.sound.sound import Sound
from dynaface.core.sync.fit import Fit, Numbers, fitted

MOST = 24  # claps of a recording that are looked at, the sharpest
STEP, WIDTH = 0.002, 0.006  # seconds: of the picture of the fit, and within which two claps fall together
WORK, HOP = 16_000, 16  # samples a second, and of a millisecond
AFTER, BEFORE = 6, 64  # milliseconds that are compared
LATER = (60, 140)  # milliseconds after its beginning at which a clap has died away
FALL = 7.0  # decibels by which it has then fallen at least; by twice as much it is one
RISE, FULL = 12.0, 36.0  # decibels above what was before: the least of a clap, and those of a sharp one
QUIET = 14.0  # decibels below the loudest moment at which nothing is a clap
RATE, NEAR, CLOSING = 240.0, 0.3, 0.5  # a second; metres between hands that meet; metres a second at which they come
HEARD, QUICK = 0.2, 1.5  # sharpness of a sound, and metres a second of hands, from which on it is a clap for sure
HEARD, QUICK = 0.2, 1.5  # sharpness of a sound, and metres a second of hands, from which on it is a clap for sure
FLOOR, SPAN, MARGIN, APART = 0.15, 0.3, 0.3, 0.03


@dataclass(frozen=True)
class Claps:
    """times: (n,) seconds; sharp: (n,) 0..1, how sharp each is beside the sharpest; sure: 0..1, that the sharpest is a clap at all."""

    times: Numbers
    sharp: Numbers
    sure: float = 1.0


def by_claps(one: Claps, other: Claps) -> Fit:
    """Where the recording of the other claps begins against that of the first; raises InputError where one has none."""
    if not len(one.times) or not len(other.times):
        raise InputError("there is no clap in one of the recordings", hint="Line up by sound, by motion or by timecode")
    offsets = (one.times[:, None] - other.times[None]).ravel()
    weights = (one.sharp[:, None] * other.sharp[None]).ravel()
    lags = np.arange(offsets.min() - 0.2, offsets.max() + 0.2, STEP)
    scores = np.zeros(len(lags))
    near = np.round((offsets[:, None] - lags[0]) / STEP).astype(int) + np.arange(-15, 16)[None]
    held = np.clip(near, 0, len(lags) - 1)
    np.add.at(scores, held, weights[:, None] * np.exp(-0.5 * ((lags[held] - offsets[:, None]) / WIDTH) ** 2))
    found = fitted(lags, scores / min((one.sharp**2).sum(), (other.sharp**2).sum()), APART, FLOOR, SPAN, MARGIN)
    # One moment in each always falls together: how sure that is depends on whether they are claps.
    return replace(found, confidence=found.confidence * min(one.sure, other.sure))


def claps_of_sound(sound: Sound) -> Claps:
    """Moments at which a sound rises within milliseconds far above what was before."""
    mono = sound.mono().astype(np.float64)
    if not len(mono):
        return Claps(np.zeros(0), np.zeros(0))
    if sound.rate != WORK:
        common = int(np.gcd(sound.rate, WORK))
        mono = resample_poly(mono, WORK // common, sound.rate // common)
    # A clap is as loud high up as below, a voice is not.
    power = np.diff(mono, n=2, prepend=[0.0, 0.0]) ** 2
    frames = len(power) // HOP
    each = power[: frames * HOP].reshape(frames, HOP).mean(axis=1) + 1e-12
    sums = np.concatenate([[0.0], np.cumsum(each)])
    at = np.arange(frames)
    after = _mean(sums, at, at + AFTER)
    before, later = _mean(sums, at - BEFORE, at - 3), _mean(sums, at + LATER[0], at + LATER[1])
    rise = 10 * np.log10(after / before)
    level = 10 * np.log10(after / after.max())
    fall = 10 * np.log10(after / later)  # a clap is over at once, a vowel or a consonant before one goes on
    score = np.clip((rise - RISE) / (FULL - RISE), 0, 1) * np.clip(1 + level / QUIET, 0, 1)
    score *= np.clip((fall - FALL) / FALL, 0, 1)
    peaks = np.flatnonzero((score > 0) & (score == maximum_filter1d(score, 80)))
    times = []
    for peak in map(int, peaks):
        # From the millisecond on in which it begins: a quarter of what it rises to.
        first = max(peak - 4, 0)
        part = each[first : peak + 8]
        times.append((first + int(np.argmax(part > 0.25 * part.max()))) * HOP / WORK)
    return _sharpest(np.array(times), score[peaks], 0.0, HEARD)


def claps_of_body(body: Motion) -> Claps:
    """Moments at which both hands come quickly near each other and stop."""
    anatomy = anatomy_of(body.skeleton)
    hands = {side: anatomy.joint("hand", side) for side in ("L", "R")}
    if min(hands.values()) < 0 or body.frames < 3:
        return Claps(np.zeros(0), np.zeros(0))
    times = np.arange(int(body.seconds * RATE)) / RATE
    places = body.skeleton.pose(*body.at(times))[1]
    apart = np.linalg.norm(places[:, hands["L"]] - places[:, hands["R"]], axis=1)
    speed = gaussian_filter1d(np.gradient(apart) * RATE, 1.5)
    wide = round(0.05 * RATE)
    closing = -minimum_filter1d(speed, wide + 1, origin=wide // 2)
    least = apart == -maximum_filter1d(-apart, 2 * round(0.12 * RATE) + 1)
    found = np.flatnonzero(least & (closing > CLOSING) & (apart < apart.min() + NEAR))
    return _sharpest(times[found], closing[found], CLOSING, QUICK)


def _mean(sums: Numbers, first: NDArray[np.intp], stop: NDArray[np.intp]) -> Numbers:
    """(n,) means of what has these running sums, from first to before stop, as far as it goes."""
    low, high = (np.clip(at, 0, len(sums) - 1) for at in (first, np.maximum(stop, 1)))
    return np.asarray((sums[high] - sums[low]) / np.maximum(high - low, 1) + 1e-12)


def _sharpest(times: Numbers, sharp: Numbers, least: float, sure: float) -> Claps:
    """At most MOST of them, by sharpness against the sharpest, in order of time; the sharpest is no clap at `least`, one at `sure`."""
    best = np.sort(np.argsort(-sharp, kind="stable")[:MOST])
    most = float(sharp.max(initial=0))
    return Claps(times[best], sharp[best] / max(most, 1e-9), float(np.clip((most - least) / (sure - least), 0, 1)))
