"""A phone: writes truth curves as a table with the faults of real phones, and a voice that comes late."""

from dataclasses import dataclass
from fractions import Fraction

import numpy as np

from dynaface.core.clock.timecode import Timecode, from_seconds
from dynaface.core.curves.channels import Channels
from dynaface.core.shapes.regions import REGION
from dynaface.core.shapes.standard import HEAD_ANGLES, SHAPES, side
from dynaface.core.sound.sound import Sound


@dataclass(frozen=True)
class Faults:
    """stamp: jitter of time stamps in seconds; dropped, doubled: shares of frames; lost: frames of one long loss;
    noise: jitter of weights, twice on the lids; head_noise: degrees.
    """

    stamp: float = 0.0022
    dropped: float = 0.02
    doubled: float = 0.012
    lost: int = 14
    noise: float = 0.007
    head_noise: float = 0.16


def table_spelling(channel: str) -> str:
    """This phone's spelling of a channel: eye_blink_L, head_turn_deg."""
    if channel in HEAD_ANGLES:
        return f"head_{channel[4:].lower()}_deg"
    stem = channel.removesuffix("Left").removesuffix("Right")
    words = "".join(f"_{c.lower()}" if c.isupper() else c for c in stem)
    letter = {"left": "_L", "right": "_R", "middle": ""}[side(channel)]
    return words + letter


def record(truth: Channels, start: Timecode, seed: int, faults: Faults | None = None, rate: int = 60) -> bytes:
    """The table of a phone that recorded the truth: time in ms, timecode with a remainder, weights 0..1."""
    faults = faults or Faults()
    rng = np.random.default_rng(seed)
    frames = int(truth.seconds * rate)
    times = np.arange(frames) / rate + rng.normal(0, faults.stamp, frames)
    times = np.maximum.accumulate(np.maximum(times, 0))
    keep = rng.uniform(size=frames) >= faults.dropped
    if faults.lost:
        at = int(frames * rng.uniform(0.55, 0.8))
        keep[at : at + faults.lost] = False
    keep[0] = keep[-1] = True
    rows = np.flatnonzero(keep)
    doubled = rng.uniform(size=len(rows)) < faults.doubled
    rows = np.repeat(rows, 1 + doubled)
    clock = np.arange(truth.frames) / float(truth.rate)
    names = SHAPES + HEAD_ANGLES
    values = np.stack([np.interp(times[rows], clock, truth.column(n)) for n in names], axis=1)
    noise = np.array(
        [faults.head_noise if n in HEAD_ANGLES else faults.noise * (2 if REGION[n] == "lids" else 1) for n in names]
    )
    noisy = values + rng.normal(0, 1, values.shape) * noise
    again = np.concatenate([[False], np.diff(rows) == 0])
    noisy[again] = noisy[np.flatnonzero(again) - 1]  # a doubled frame is the same picture twice
    shapes = len(SHAPES)
    noisy[:, :shapes] = np.clip(noisy[:, :shapes], 0, 1)
    lines = ["time_ms,timecode," + ",".join(table_spelling(n) for n in names)]
    stamps = times[rows] + again * 0.0004
    for moment, row in zip(stamps, noisy, strict=True):
        label = from_seconds(start.seconds + moment, Fraction(rate))
        cells = ",".join(f"{v:.5f}" for v in row)
        lines.append(f"{moment * 1000:.3f},{label}.{int(label.fraction * 1000):03d},{cells}")
    return ("\n".join(lines) + "\n").encode()


def late_sound(voice: Sound, frames: float, rate: float, seconds: float) -> Sound:
    """The voice as the phone stored it: later by some frames, as long as the take."""
    delay = round(frames / rate * voice.rate)
    out = np.zeros((int(seconds * voice.rate), voice.samples.shape[1]), np.float32)
    source = voice.samples[max(0, -delay) :]
    at = max(0, delay)
    length = min(len(source), len(out) - at)
    out[at : at + length] = source[:length]
    return Sound(out, voice.rate)
