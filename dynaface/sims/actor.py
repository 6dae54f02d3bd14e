"""An actor: truth curves of a face that says a line, blinks, looks about, raises its brows and moves its head."""

from collections.abc import Sequence
from dataclasses import dataclass
from fractions import Fraction

import numpy as np
from scipy.ndimage import gaussian_filter1d

from dynaface.core.curves.channels import Channels
from dynaface.core.shapes.gaze import looks_from_angles
from dynaface.core.shapes.standard import HEAD_ANGLES, SHAPES
from dynaface.sims.speech import VOWELS, Curve, Phone, lips

CLOSE, SHUT, OPEN = 0.085, 0.03, 0.19  # seconds of a blink: it closes faster than it opens (Trutoiu et al. 2011)


@dataclass(frozen=True)
class Temper:
    """How somebody acts: blinks a minute, gaze reach in degrees, head reach in degrees, brow height 0..1, smile -1..1."""

    blinks: float = 17.0
    gaze: float = 9.0
    head: float = 5.0
    brow: float = 0.5
    smile: float = 0.1


def act(phones: Sequence[Phone], seconds: float, seed: int, temper: Temper | None = None, rate: int = 120) -> Channels:
    """All 52 shapes and head angles at `rate`, within 0..1; the same seed gives the same performance."""
    temper = temper or Temper()
    rng = np.random.default_rng(seed)
    times = np.arange(int(seconds * rate) + 1) / rate
    curves: dict[str, Curve] = {s: np.zeros(len(times)) for s in SHAPES}
    for name, curve in lips(phones, times, rng).items():
        curves[name] += curve
    accents = [(p.start + p.end) / 2 for p in phones if p.name in VOWELS and p.end - p.start > 0.085]
    pauses = [p.start for p in phones if p.name == "SIL" and p.end - p.start > 0.12]
    turn, nod, shifts = _gaze(times, temper, rng)
    _look(curves, turn, nod)
    _blinks(curves, times, _blink_times(seconds, pauses, shifts, temper, rng), nod, rng)
    _brows(curves, times, accents, temper, rng)
    _mood(curves, times, temper, rng)
    head = _head(times, accents, turn, temper, rng)
    shapes = [np.clip(curves[s], 0, 1) for s in SHAPES]
    values = np.stack([*shapes, *head], axis=1).astype(np.float32)
    return Channels(SHAPES + HEAD_ANGLES, values, Fraction(rate))


def blink_profile(times: Curve, at: float, depth: float = 1.0, pace: float = 1.0) -> Curve:
    """(frames,) weight of one blink that begins to close at `at`."""
    t = (times - at) / pace
    closing = np.clip(t / CLOSE, 0, 1)
    closing = closing * closing * (3 - 2 * closing)
    opening = np.clip((t - CLOSE - SHUT) / OPEN, 0, 1)
    opening = 1 - (1 - opening) ** 2.2
    return depth * closing * (1 - opening)


def _blink_times(seconds: float, pauses: list[float], shifts: list[float], temper: Temper, rng: np.random.Generator
                 ) -> list[float]:  # fmt: skip
    wanted: list[float] = []
    at = rng.uniform(0.3, 1.2)
    while at < seconds - 0.4:
        near = [p for p in (*pauses, *shifts) if abs(p - at) < 0.7]
        wanted.append(min(near, key=lambda p: abs(p - at)) if near else at)
        at += max(0.8, rng.gamma(4.0, 60 / temper.blinks / 4.0))
    kept: list[float] = []
    for moment in sorted(wanted):
        if not kept or moment - kept[-1] > 0.5:
            kept.append(moment)
    return kept


def _blinks(curves: dict[str, Curve], times: Curve, moments: list[float], nod: Curve, rng: np.random.Generator) -> None:
    # Lids go down with the look: the upper lid follows the pupil.
    lowered = np.clip(-nod, 0, 30) / 30 * 0.42
    for side in ("Left", "Right"):
        curves[f"eyeBlink{side}"] += 0.04 + lowered
        curves[f"eyeWide{side}"] += np.clip(nod, 0, 30) / 30 * 0.2
    for moment in moments:
        late, pace, depth = rng.normal(0, 0.004), rng.uniform(0.9, 1.25), rng.uniform(0.94, 1.0)
        for side, shift in (("Left", late), ("Right", -late)):
            curve = blink_profile(times, moment + shift, depth, pace)
            curves[f"eyeBlink{side}"] = np.maximum(curves[f"eyeBlink{side}"], curve)
            # The ring of muscle and the brow answer a moment later.
            after = blink_profile(times, moment + shift + 0.035, 1.0, pace * 1.2)
            curves[f"eyeSquint{side}"] += 0.16 * after
            curves[f"browDown{side}"] += 0.05 * after


def _gaze(times: Curve, temper: Temper, rng: np.random.Generator) -> tuple[Curve, Curve, list[float]]:
    """Turn and nod in degrees: darts of 20 to 60 ms, holds with small steps; and the moments of large darts."""
    turn, nod = np.zeros(len(times)), np.zeros(len(times))
    shifts: list[float] = []
    at, here = 0.0, np.zeros(2)
    while at < times[-1]:
        large = rng.uniform() < 0.45
        there = rng.normal(0, [temper.gaze, temper.gaze * 0.45]) if large else here + rng.normal(0, 0.7, 2)
        if large and rng.uniform() < 0.5:
            there = rng.normal(0, 0.8, 2)  # back to the one spoken to
        lasts = 0.021 + 0.0022 * float(np.linalg.norm(there - here))
        part = np.clip((times - at) / lasts, 0, 1)
        part = part * part * (3 - 2 * part)
        since = times >= at
        turn[since] = here[0] + (there[0] - here[0]) * part[since]
        nod[since] = here[1] + (there[1] - here[1]) * part[since]
        if np.linalg.norm(there - here) > 8:
            shifts.append(at - 0.02)
        here = there
        at += lasts + (rng.lognormal(-0.25, 0.5) if large else rng.uniform(0.18, 0.6))
    return turn, nod, [s for s in shifts if s > 0]


def _look(curves: dict[str, Curve], turn: Curve, nod: Curve) -> None:
    for side in ("Left", "Right"):
        for way, weight in looks_from_angles(turn, nod, side.lower()).items():
            curves[f"eyeLook{way}{side}"] += weight


def _bump(times: Curve, at: float, rise: float, fall: float) -> Curve:
    spread = np.where(times < at, rise, fall)
    return np.exp(-0.5 * ((times - at) / spread) ** 2)


def _brows(
    curves: dict[str, Curve], times: Curve, accents: list[float], temper: Temper, rng: np.random.Generator
) -> None:
    for accent in accents:
        if rng.uniform() < 0.45:
            height = temper.brow * rng.uniform(0.35, 0.9)
            bump = height * _bump(times, accent - 0.03, rng.uniform(0.09, 0.16), rng.uniform(0.16, 0.34))
            curves["browInnerUp"] += 0.8 * bump
            lean = rng.uniform(0.8, 1.2)
            curves["browOuterUpLeft"] += 0.6 * bump * lean
            curves["browOuterUpRight"] += 0.6 * bump * (2 - lean)
    slow = gaussian_filter1d(rng.normal(0, 1, len(times)), 60, mode="nearest")
    slow = slow / (slow.std() + 1e-9)
    for side in ("Left", "Right"):
        curves[f"browDown{side}"] += np.clip(0.06 + 0.05 * slow, 0, 1)
        curves[f"cheekSquint{side}"] += np.clip(0.04 + 0.3 * curves[f"mouthSmile{side}"], 0, 1)
        curves[f"noseSneer{side}"] += 0.12 * curves[f"mouthUpperUp{side}"]


def _mood(curves: dict[str, Curve], times: Curve, temper: Temper, rng: np.random.Generator) -> None:
    swell = 0.6 + 0.4 * np.sin(times * rng.uniform(0.5, 1.1) + rng.uniform(0, 6.28))
    for side in ("Left", "Right"):
        lean = rng.uniform(0.85, 1.15)
        if temper.smile >= 0:
            curves[f"mouthSmile{side}"] += temper.smile * swell * lean
        else:
            curves[f"mouthFrown{side}"] += -temper.smile * swell * lean
    curves["mouthShrugUpper"] += 0.03 * swell


def _head(times: Curve, accents: list[float], gaze: Curve, temper: Temper, rng: np.random.Generator) -> list[Curve]:
    rate = 1 / (times[1] - times[0])

    def drift(seconds: float, reach: float) -> Curve:
        raw = gaussian_filter1d(rng.normal(0, 1, len(times) + int(4 * rate)), seconds * rate)[int(2 * rate) :][
            : len(times)
        ]
        return reach * raw / (raw.std() + 1e-9)

    # The head goes after a lasting look, a quarter of the way and later.
    after = 0.35 * gaussian_filter1d(gaze, 0.22 * rate, mode="nearest")
    turn = drift(0.55, temper.head * 0.8) + after
    nod = drift(0.45, temper.head * 0.45)
    tilt = drift(0.7, temper.head * 0.4)
    for accent in accents:
        nod = nod - rng.uniform(0.5, 2.6) * _bump(times, accent, 0.07, 0.15)
    return [turn, nod, tilt]
