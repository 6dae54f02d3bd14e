"""Speed of tidying on 52 x 36,000 samples, as ratios against the obvious call in the same run: `python -m bench.filters`."""

import time
from collections.abc import Callable
from fractions import Fraction

import numpy as np
from scipy.interpolate import UnivariateSpline
from scipy.ndimage import gaussian_filter1d
from scipy.signal import butter, sosfiltfilt

from bench.core import FRAMES, median_ms
from dynaface.core.curves.channels import Channels
from dynaface.core.curves.keys import evaluate_keys
from dynaface.core.curves.lowpass import low_pass
from dynaface.core.curves.medians import SIGMA, moving_median
from dynaface.core.curves.reduce import TOLERANCE, reduce
from dynaface.core.shapes.standard import SHAPES
from dynaface.core.snags.find import find_snags
from dynaface.core.snags.snag import Evidence
from dynaface.core.tidy.stack import placed, run_step
from dynaface.core.tidy.steps.put_in_blinks import profile
from dynaface.sims.long_take import long_take

RATE = 60.0


def once_ms(work: Callable[[], object]) -> float:
    """One run in ms, for what takes long."""
    began = time.perf_counter()
    work()
    return (time.perf_counter() - began) * 1000


def told(name: str, ours: float, theirs: float, call: str, target: float) -> None:
    """Prints one ratio."""
    print(f"{name}: {ours:.1f} ms; {call} {theirs:.0f} ms: {theirs / ours:.1f} times as fast (target {target:g})")


def numpy_hampel(values: np.ndarray, half: int) -> np.ndarray:
    """Medians and deviations by NumPy's sliding windows, a channel at a time so that it fits into memory."""
    padded = np.concatenate([np.repeat(values[:1], half, 0), values, np.repeat(values[-1:], half, 0)])
    out = np.empty_like(values)
    for column in range(values.shape[1]):
        windows = np.lib.stride_tricks.sliding_window_view(padded[:, column], 2 * half + 1)
        middle = np.median(windows, axis=1)
        out[:, column] = SIGMA * np.median(np.abs(windows - middle[:, None]), axis=1)
    return out


def python_one_euro(values: np.ndarray) -> list[float]:
    """The one-euro filter of the paper, in plain Python, forward and backward over one channel."""
    total = [0.0] * len(values)
    for order in (range(len(values)), range(len(values) - 1, -1, -1)):
        held, speed, started = 0.0, 0.0, False
        for f in order:
            x = float(values[f])
            if not started:
                held, started = x, True
            else:
                step = 2 * np.pi / RATE
                speed += step * 2 / (1 + step * 2) * ((x - held) * RATE - speed)
                wide = step * (4.9 + 2.5 * abs(speed))
                held += wide / (1 + wide) * (x - held)
            total[f] += 0.5 * held
    return total


def smooth_curve(seed: int) -> np.ndarray:
    """(frames,) a slow curve with a blink every three or four seconds."""
    rng = np.random.default_rng(seed)
    slow = gaussian_filter1d(rng.normal(0, 1, FRAMES), 60)
    seconds = np.arange(FRAMES) / RATE
    lid = np.zeros(FRAMES)
    for at in np.cumsum(rng.gamma(4, 0.9, int(FRAMES / RATE / 3.6))):
        lid = np.maximum(lid, profile(seconds - at))
    base = 0.15 + 0.08 * slow / slow.std()
    return np.clip(base + (0.98 - base) * lid, 0, 1).astype(np.float32)


def within_tolerance(curve: np.ndarray) -> tuple[float, int]:
    """(ms, knots) of SciPy's smoothing spline at the largest smoothing found that keeps the tolerance."""
    frames = np.arange(len(curve), dtype=float)
    taken, knots = 0.0, 0
    for rms in (TOLERANCE / 4, TOLERANCE / 8, TOLERANCE / 16):
        made: list[UnivariateSpline] = []
        taken = once_ms(
            lambda rms=rms, made=made: made.append(UnivariateSpline(frames, curve, k=3, s=len(curve) * rms**2))
        )
        knots = len(made[0].get_knots())
        if np.abs(made[0](frames) - curve).max() <= TOLERANCE:
            break
    return taken, knots


def main() -> None:
    """Prints the ratios."""
    rng = np.random.default_rng(3)
    values = gaussian_filter1d(rng.normal(0, 1, (FRAMES, 52)), 6, axis=0).astype(np.float32) * 0.5 + 0.4
    values += rng.normal(0, 0.01, values.shape).astype(np.float32)
    channels = Channels(SHAPES, values, Fraction(60))

    sections = butter(4, 6.0, fs=RATE, output="sos")
    told("zero-phase low-pass", median_ms(lambda: low_pass(values, 6.0, RATE)),
         median_ms(lambda: sosfiltfilt(sections, values, axis=0), 3), "sosfiltfilt", 3)  # fmt: skip
    euro = placed("smooth", {"method": "one-euro"})
    told("one-euro", median_ms(lambda: run_step(channels, euro)),
         once_ms(lambda: [python_one_euro(values[:, c]) for c in range(4)]) * 13, "plain Python (4 channels, times 13)", 100)  # fmt: skip
    told("Hampel, 7 frames", median_ms(lambda: moving_median(values, 3)), once_ms(lambda: numpy_hampel(values, 3)),
         "NumPy's sliding windows", 12)  # fmt: skip
    for name, entry in (("fit to motion", placed("smooth", {"method": "fit to motion"})),
                        ("remove spikes", placed("remove spikes", {})), ("pair sides", placed("pair sides", {})),
                        ("re-zero", placed("re-zero", {}))):  # fmt: skip
        print(f"{name}: {median_ms(lambda entry=entry: run_step(channels, entry), 3):.0f} ms")
    print(f"all snags of ten minutes, without sound: {median_ms(lambda: find_snags(Evidence(channels)), 3):.0f} ms")

    curves = [smooth_curve(seed) for seed in range(8)]
    reduce(curves[0], RATE)
    taken, keys, worst = 0.0, 0, 0.0
    for curve in curves:
        made = reduce(curve, RATE)
        taken += once_ms(lambda curve=curve: reduce(curve, RATE)) / len(curves)
        keys += len(made.keys)
        worst = max(worst, float(np.abs(evaluate_keys(made.keys, FRAMES) - curve).max()))
    theirs, knots = within_tolerance(curves[0])
    print(f"keys: {FRAMES * len(curves) / keys:.1f} frames a key on smooth curves with blinks (target 25), worst error {worst:.5f}"
          f" of {TOLERANCE}")  # fmt: skip
    truth, _, _ = long_take(8300)
    total = sum(len(reduce(truth.column(n), RATE).keys) for n in SHAPES)
    print(f"keys: {truth.frames * len(SHAPES) / total:.1f} frames a key on the 52 shapes of a spoken take (target 25)")
    told("key reduction, a curve", taken, theirs, f"UnivariateSpline ({FRAMES / knots:.1f} frames a knot)", 150)


if __name__ == "__main__":
    main()
