"""The course of a blink, and the moments at which eyes blink.

A lid closes faster than it opens, and comes to rest slowly (Trutoiu, Carter, Matthews, Hodgins: Modeling and animating eye blinks,
2011). People blink with large looks and turns of the head, and otherwise at times of their own with a pause after each (Leigh &
Zee, The Neurology of Eye Movements).
"""

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from dynaface.core.curves.channels import Channels
from dynaface.core.curves.events import crests
from dynaface.core.layers.weight import Amounts
from dynaface.core.shapes.gaze import angles_from_looks

SECOND = 0.32  # seconds from one lid that is shut to the next in a double blink
PAUSE = 0.6  # seconds after a blink in which there is no other
DART, TURN = 120.0, 60.0  # degrees a second from which on eyes dart, the head turns fast


Course = Callable[[Amounts], Amounts]
"""Parts of a blink's length (n,) -> how far a lid has gone (n,), 0..1."""


@dataclass(frozen=True)
class Blink:
    """peak: the frame at which it is shut; late: frames by which the right lid comes later; share: of the whole depth."""

    peak: float
    late: float = 0.0
    share: float = 1.0


def shut(
    blinks: Sequence[Blink], frames: int, length: float, course: Course, closing: float, late: float = 0.0
) -> Amounts:
    """(frames,) how far a lid has gone, with blinks of a length in frames; closing: the part of it at which they are shut; late: frames
    by which all of them come later.
    """
    out = np.zeros(frames)
    for blink in blinks:
        first = blink.peak + late - closing * length
        low, high = max(int(np.floor(first)), 0), min(int(np.ceil(first + length)) + 1, frames)
        if high > low:
            part = np.asarray((np.arange(low, high) - first) / max(length, 1e-6), np.float64)
            out[low:high] = np.maximum(out[low:high], blink.share * course(part))
    return out


def varied(peaks: Sequence[int], rate: float, spread: float, half: float, double: float, seed: int) -> list[Blink]:
    """Blinks at frames, varied by chance, the same for the same seed: the right lid up to `spread` frames early or late; a share `half`
    of them go half the way; a share `double` are followed by a second one.
    """
    out: list[Blink] = []
    for peak in peaks:
        # What one blink draws does not depend on the others: one more or less leaves the rest as it is.
        late, depth, twice = np.random.default_rng((seed, peak)).random(3)
        blink = Blink(peak, float(spread * (2 * late - 1)), 0.5 if depth < half else 1.0)
        out.append(blink)
        if twice < double:
            out.append(replace(blink, peak=peak + SECOND * rate))
    return out


def moments(below: Channels, darts: bool, turns: bool) -> list[int]:
    """Frames at which the eyes dart or the head turns fast, in order."""
    rate, found = float(below.rate), set()
    if darts:
        out, inward, up, down = (below.column(f"eyeLook{w}Left") for w in ("Out", "In", "Up", "Down"))
        turn, nod = angles_from_looks(out, inward, up, down, "left")
        found |= _quick([turn, nod], rate, DART)
    if turns:
        found |= _quick([below.column("headTurn"), below.column("headNod")], rate, TURN)
    return sorted(found)


def _quick(angles: list[NDArray[np.float32]], rate: float, least: float) -> set[int]:
    """Frames at which angles in degrees change fastest, above `least` degrees a second."""
    if len(angles[0]) < 3:
        return set()
    speed = np.hypot(*(np.gradient(np.nan_to_num(a).astype(np.float64)) for a in angles)) * rate
    return {peak for peak, _, _ in crests(speed, 0.5 * least) if speed[peak] >= least}


def by_chance(frames: int, rate: float, per_minute: float, seed: int) -> list[int]:
    """Frames of blinks that come at a rate, with natural spread: a pause, then an exponential wait (a Poisson process with a
    refractory time); the same for the same seed.
    """
    if per_minute <= 0:
        return []
    random = np.random.default_rng(seed)
    wait = max(60 / per_minute - PAUSE, 0.05)
    out, at = [], float(random.exponential(wait))
    while at * rate < frames:
        out.append(int(at * rate))
        at += PAUSE + float(random.exponential(wait))
    return out


def apart(frames: list[int], rate: float) -> list[int]:
    """The frames without those that come too soon after another."""
    out: list[int] = []
    for frame in sorted(set(frames)):
        if not out or frame - out[-1] >= PAUSE * rate:
            out.append(frame)
    return out
