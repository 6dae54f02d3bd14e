"""A timecode generator: the sound of linear timecode (SMPTE ST 12-1), as a recorder hears it."""

import numpy as np

from dynaface.core.clock.timecode import Timecode
from dynaface.core.curves.channels import Floats

SYNC = "0011111111111101"


def bits_of(count: Timecode) -> str:
    """The 80 bits of a frame, in the order in which they are sent."""
    digits = str(count).replace(";", ":").split(":")
    hours, minutes, seconds, frames = (int(d) for d in digits)

    def coded(value: int, units: int, tens: int) -> tuple[str, str]:
        return f"{value % 10:0{units}b}"[::-1], f"{value // 10:0{tens}b}"[::-1]

    (f, ff), (s, ss), (m, mm), (h, hh) = (
        coded(frames, 4, 2), coded(seconds, 4, 3), coded(minutes, 4, 3), coded(hours, 4, 2),
    )  # fmt: skip
    user = "0000"
    drop = "1" if count.drop else "0"
    return (
        f
        + user
        + ff
        + drop
        + "0"
        + user
        + s
        + user
        + ss
        + "0"
        + user
        + m
        + user
        + mm
        + "0"
        + user
        + h
        + user
        + hh
        + "00"
        + user
        + SYNC
    )


def ltc(start: Timecode, seconds: float, rate: int, speed: float = 1.0, level: float = 0.5, noise: float = 0.0, seed: int = 0,
        inverted: bool = False) -> Floats:  # fmt: skip
    """(n,) samples of timecode from a count with its remainder on. speed: of the tape; noise: standard deviation; its edges are as
    slow as the standard's 25 microseconds.
    """
    fps = float(start.rate) * speed
    count = int(seconds * fps) + 3
    sent = "".join(bits_of(Timecode(start.frames + n, start.rate, 0.0, start.drop)) for n in range(count))
    bit = 1 / (fps * 80)
    flips = []
    for place, value in enumerate(sent):
        flips.append(place * bit)
        if value == "1":
            flips.append((place + 0.5) * bit)
    at = np.array(flips) - start.fraction / fps
    times = np.arange(int(seconds * rate)) / rate
    sign = np.where(np.searchsorted(at, times, side="right") % 2, 1.0, -1.0)
    nearest = np.searchsorted(at, times)
    gap = np.minimum(
        np.abs(times - at[np.clip(nearest, 0, len(at) - 1)]), np.abs(times - at[np.clip(nearest - 1, 0, len(at) - 1)])
    )
    made = level * sign * np.clip(gap / 12.5e-6, 0, 1) * (-1 if inverted else 1)
    return (made + np.random.default_rng(seed).normal(0, noise, len(times)) if noise else made).astype(np.float32)
