"""Linear timecode heard in a sound (SMPTE ST 12-1): 80 bits a frame in biphase mark, found at any level, polarity and usual speed."""

from dataclasses import dataclass
from fractions import Fraction

import numpy as np
from numpy.typing import NDArray

from dynaface.core.clock.timecode import Timecode, parse_timecode
from dynaface.core.curves.channels import Floats
from dynaface.core.errors import InputError
from dynaface.core.sound.sound import Sound

BITS, SYNC = 80, (0, 0, 1, 1, 1, 1, 1, 1, 1, 1, 1, 1, 1, 1, 0, 1)
RATES = tuple(Fraction(*r) for r in ((24000, 1001), (24, 1), (25, 1), (30000, 1001), (30, 1)))
LOOKED = 60.0  # seconds of a sound in which a count is looked for
LEVEL = 0.15  # of the usual swing, that a crossing must go beyond
LONG = 0.75  # of a bit: what is longer is a whole one
FOLLOW = 0.05  # share of each bit's length that the expected length takes on: tape and recorders drift
SHORTEST, LONGEST = 1 / 6000, 1 / 900  # seconds that a bit can last
LEAST = 10  # frames that must be heard
CLOSE = 0.05  # frames by which one may be off
AGREE = 0.9  # share of frames that must agree
_FIELDS = {
    "frames": ((0, 4), (8, 2)),
    "seconds": ((16, 4), (24, 3)),
    "minutes": ((32, 4), (40, 3)),
    "hours": ((48, 4), (56, 2)),
}
_DROP_BIT = 10
Bits = list[int]


@dataclass(frozen=True)
class LtcFrame:
    """A frame that was heard: position in samples of its first edge, its label's parts, and whether labels are dropped."""

    position: float
    hours: int
    minutes: int
    seconds: int
    frames: int
    drop: bool

    def count(self, rate: Fraction) -> int | None:
        """Frames since midnight; None for a label that there is not at this rate."""
        mark = ";" if self.drop else ":"
        label = f"{self.hours:02d}:{self.minutes:02d}:{self.seconds:02d}{mark}{self.frames:02d}"
        try:
            return parse_timecode(label, rate).frames
        except InputError:
            return None


def count_of(sound: Sound) -> tuple[int, Timecode] | None:
    """(the channel that carries linear timecode, the count at the first sample with its remainder); None where no channel does."""
    looked = sound.samples[: int(LOOKED * sound.rate)]
    for channel in range(looked.shape[1]):
        found = count_at_start(frames_of(looked[:, channel], sound.rate), sound.rate)
        if found is not None:
            return channel, found
    return None


def frames_of(samples: Floats, rate: int) -> list[LtcFrame]:
    """Every whole frame in (n,) samples at a rate; what is no timecode gives none."""
    bits, starts = _bits(_edges(samples, rate), rate)
    found = []
    sync = bytes(SYNC)
    raw = bytes(bits)
    at = raw.find(sync)
    while at >= 0:
        first = at - (BITS - len(SYNC))
        if first >= 0 and _UNSURE not in raw[first:at]:
            frame = _frame(bits[first:at], starts[first])
            if frame is not None:
                found.append(frame)
        at = raw.find(sync, at + 1)
    return found


def count_at_start(frames: list[LtcFrame], rate: int) -> Timecode | None:
    """The count at sample 0, from frames that agree about it; None where they are too few or do not. rate: samples a second."""
    if len(frames) < LEAST:
        return None
    positions = np.array([f.position for f in frames]) / rate
    drop = sum(f.drop for f in frames) * 2 > len(frames)
    pace = len(frames) / max(positions[-1] - positions[0], 1e-9)
    best: tuple[float, Fraction, NDArray[np.float64]] | None = None
    for fps in RATES:
        if (round(fps) != round(pace) and abs(float(fps) - pace) > 2) or (drop and fps != Fraction(30000, 1001)):
            continue
        counted = [(f.count(fps), p) for f, p in zip(frames, positions, strict=True)]
        at_start = np.array([c - p * float(fps) for c, p in counted if c is not None])
        if len(at_start) < LEAST:
            continue
        day = round(fps) * 86_400
        at_start = at_start[0] + (at_start - at_start[0] + day / 2) % day - day / 2  # past midnight it counts on
        spread = float(np.median(np.abs(at_start - np.median(at_start))))
        if best is None or spread < best[0]:
            best = spread, fps, at_start
    if best is None:
        return None
    _, fps, at_start = best
    middle = float(np.median(at_start))
    if (np.abs(at_start - middle) < CLOSE).mean() < AGREE:
        return None
    day = round(fps) * 86_400
    exact = middle % day
    whole = int(np.floor(exact + 1e-6))
    return Timecode(whole, fps, max(0.0, exact - whole), drop)


_UNSURE = 2  # a bit that could not be told


def _edges(samples: Floats, rate: int) -> NDArray[np.float64]:
    """Positions in samples at which the sound crosses its middle for good."""
    x = np.asarray(samples, np.float64)
    if len(x) < 2:
        return np.zeros(0)
    window = max(3, int(rate / 200))
    padded = np.pad(x, (window // 2, window - window // 2 - 1), mode="edge")
    summed = np.cumsum(np.concatenate([[0.0], padded]))
    x = x - (summed[window:] - summed[:-window]) / window
    swing = float(np.sqrt(np.mean(x * x)))
    if swing < 1e-5:
        return np.zeros(0)
    state = np.where(x > LEVEL * swing, 1, np.where(x < -LEVEL * swing, -1, 0))
    known = np.flatnonzero(state)
    if len(known) < 2:
        return np.zeros(0)
    turns = known[1:][state[known[1:]] != state[known[:-1]]]
    before = turns - 1
    step = x[turns] - x[before]
    return before + np.where(np.abs(step) > 1e-12, np.clip(-x[before] / np.where(step == 0, 1, step), 0, 1), 0.5)


def _bits(edges: NDArray[np.float64], rate: int) -> tuple[Bits, list[float]]:
    """(bits, the position at which each begins): a bit without a crossing in its middle is 0, one with is 1."""
    lengths = np.diff(edges)
    usual = lengths[(lengths > SHORTEST * rate / 2) & (lengths < LONGEST * rate)]
    if len(usual) < BITS:
        return [], []
    whole = usual[usual > LONG * np.percentile(usual, 95)]
    bit = float(np.median(whole))
    bits: Bits = []
    starts: list[float] = []
    at = 0
    while at < len(lengths):
        length = lengths[at]
        starts.append(float(edges[at]))
        if LONG * bit < length < 1.5 * bit:
            bits.append(0)
            bit += FOLLOW * (length - bit)
            at += 1
        elif length <= LONG * bit and at + 1 < len(lengths) and LONG * bit < length + lengths[at + 1] < 1.4 * bit:
            bits.append(1)
            bit += FOLLOW * (length + lengths[at + 1] - bit)
            at += 2
        else:
            bits.append(_UNSURE)
            at += 1
    return bits, starts


def _frame(bits: Bits, position: float) -> LtcFrame | None:
    """The label of the 64 bits before a sync word; None for one that no clock shows."""

    def digit(first: int, length: int) -> int:
        return sum(bits[first + i] << i for i in range(length))

    parts = {name: digit(*units) + 10 * digit(*tens) for name, (units, tens) in _FIELDS.items()}
    units = [digit(*units) for units, _ in _FIELDS.values()]
    if max(units) > 9 or parts["hours"] > 23 or parts["minutes"] > 59 or parts["seconds"] > 59 or parts["frames"] > 29:
        return None
    return LtcFrame(
        position, parts["hours"], parts["minutes"], parts["seconds"], parts["frames"], bool(bits[_DROP_BIT])
    )
