"""Smooth: one-euro (Casiez, Roussel & Vogel 2012), Savitzky-Golay (1964), zero-phase low-pass, or as wide as the motion
allows, with an amount for each region; blinks and lip closures can be left sharp."""

from collections.abc import Mapping
from typing import Any

import numpy as np
from scipy.ndimage import maximum_filter1d, uniform_filter1d

from dynaface.core.curves.adaptive import adaptive
from dynaface.core.curves.channels import Channels, Floats
from dynaface.core.curves.events import blinks, closures
from dynaface.core.curves.known_runs import over_runs
from dynaface.core.curves.lowpass import low_pass
from dynaface.core.curves.noise import noise_of
from dynaface.core.curves.one_euro import both_ways
from dynaface.core.numeric.filters import savitzky_golay
from dynaface.core.parameters import Parameter
from dynaface.core.shapes.regions import REGION
from dynaface.core.shapes.standard import full_range
from dynaface.core.tidy.step import Step

# Savitzky-Golay: amount 1 is a window of this many seconds, order 3.
WINDOW = 0.4
ORDER = 3
# Low-pass: amount 0..1 runs the cutoff from 20 Hz down to 1.5 Hz.
PASS_HIGH, PASS_LOW = 20.0, 1.5
# Fit to motion: amount 0.5 believes the noise that is measured; 1 takes it for four times as large.
NOISE_SPAN = 4.0
PROTECTED_HALF = 2  # frames: what is protected is smoothed by no more than this to either side
PROTECTED_RAMP = 3
METHODS = ("one-euro", "savitzky-golay", "low-pass", "fit to motion")


def _window(amount: float, rate: float) -> int:
    return int(amount * WINDOW * rate / 2) * 2 + 1


def _savitzky_golay(values: Floats, amounts: Floats, rate: float) -> Floats:
    out = values.copy()
    for amount in np.unique(amounts):
        window = _window(float(amount), rate)
        if window <= ORDER + 1:
            continue
        columns = np.flatnonzero(amounts == amount)

        def fit(part: Floats, _: np.ndarray, window: int = window) -> Floats:
            return savitzky_golay(part, window, ORDER) if len(part) >= window else part

        out[:, columns] = over_runs(values[:, columns], fit)
    return out


def _low_pass(values: Floats, amounts: Floats, rate: float) -> Floats:
    out = values.copy()
    for amount in np.unique(amounts[amounts > 0]):
        columns = np.flatnonzero(amounts == amount)
        out[:, columns] = low_pass(values[:, columns], PASS_HIGH * (PASS_LOW / PASS_HIGH) ** float(amount), rate)
    return out


def _fitted(values: Floats, amounts: Floats, rate: float, scale: Floats, noise: float) -> Floats:
    sigma = np.float64(noise) / scale if noise > 0 else noise_of(values)
    return adaptive(values, sigma * np.where(amounts > 0, NOISE_SPAN ** (2 * amounts - 1), 0), rate)


def _sharp(channels: Channels) -> np.ndarray:
    """(frames, channels) 0..1: how much of a frame belongs to a blink (lids) or a lip closure (lips and jaw)."""
    rate = float(channels.rate)
    out = np.zeros(channels.values.shape, np.float32)
    region = np.array([REGION[n] for n in channels.names])
    for side in ("Left", "Right"):
        name = f"eyeBlink{side}"
        if name in channels.names:
            for event in blinks(channels.column(name), rate):
                out[event.first : event.last + 1, [n == name for n in channels.names]] = 1
    mouth = np.isin(region, ("lips", "jaw"))
    if mouth.any():
        for event in closures(channels):
            out[event.first : event.last + 1, mouth] = 1
    size = 2 * PROTECTED_RAMP + 1
    return np.asarray(uniform_filter1d(maximum_filter1d(out, size, axis=0), size, axis=0))


def apply(channels: Channels, parameters: Mapping[str, Any]) -> Channels:
    """Each channel smoothed by its region's amount; gaps stay, and nothing is smoothed across one."""
    amounts = np.array([parameters["amount"][REGION[n]] for n in channels.names], np.float32)
    rate = float(channels.rate)
    method = parameters["method"]
    # Angles in degrees move about thirty times as far as weights do.
    scale = np.array([1 / full_range(n) for n in channels.names], np.float32)
    if method == "one-euro":
        made = both_ways(channels.values, amounts, scale, rate)
    elif method == "fit to motion":
        made = _fitted(channels.values, amounts, rate, scale, parameters["noise"])
    else:
        made = (_savitzky_golay if method == "savitzky-golay" else _low_pass)(channels.values, amounts, rate)
    if parameters["keep"] == "blinks and closures" and (amounts > 0).any():
        sharp = _sharp(channels)
        if sharp.any():
            light = _light(channels.values, rate)
            made = np.where(amounts > 0, made + (light - made) * sharp, made)
    return channels.with_values(made.astype(np.float32))


def _light(values: Floats, rate: float) -> Floats:
    window = 2 * max(1, round(PROTECTED_HALF * rate / 60)) + 1

    def fit(part: Floats, _: np.ndarray) -> Floats:
        return savitzky_golay(part, window, min(2, window - 1)) if len(part) >= window else part

    return over_runs(values, fit)


DEFAULT = 0.3

STEP = Step(
    name="smooth",
    label="Smooth",
    kind="temporal",
    help="Takes jitter out. One-euro smooths slow motion and leaves fast motion alone; Savitzky-Golay keeps the height "
    "of peaks; low-pass cuts what is fast; fit to motion measures the noise and smooths as widely as the motion allows.",
    parameters=(
        Parameter("method", "Method", "choice", "one-euro", options=METHODS),
        Parameter("amount", "Amount", "per_region", DEFAULT, low=0, high=1,
                  help="0 leaves the region as it is."),
        Parameter("noise", "Noise", "number", 0.0, "", 0, 0.2, 0.001,
                  help="For fit to motion: what to take for noise, in shape units. 0 measures it on each channel."),
        Parameter("keep", "Keep sharp", "choice", "nothing", options=("nothing", "blinks and closures"),
                  help="Blinks and lip closures are found first and hardly smoothed."),
    ),
    apply=apply,
    halo=lambda parameters, rate: int(2 * rate),
)  # fmt: skip
