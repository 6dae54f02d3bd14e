"""SMPTE ST 12-1 timecode: labels of frames, with drop-frame counting for 29.97 and 59.94."""

import re
from dataclasses import dataclass
from fractions import Fraction

from dynaface.core.clock.rates import format_rate
from dynaface.core.errors import InputError

_LABEL = re.compile(r"^\s*(\d{1,2}):(\d{2}):(\d{2})([:;.,])(\d{1,3})(?:[.,](\d+))?\s*$")


@dataclass(frozen=True)
class Timecode:
    """A moment of a day as frames since midnight.

    frames: whole frames since 00:00:00:00 at the count's rate, with a remainder below a frame in `fraction` (0..1).
    rate: real frames per second; drop: whether labels are dropped (only at 30000/1001 and 60000/1001).
    """

    frames: int
    rate: Fraction
    fraction: float = 0.0
    drop: bool = False

    @property
    def seconds(self) -> float:
        """Real seconds since the count began."""
        return (self.frames + self.fraction) / float(self.rate)

    def __str__(self) -> str:
        base = counting_base(self.rate)
        frames = self.frames
        if self.drop:
            dropped = base // 15  # 2 labels a minute at 30, 4 at 60
            per_ten = base * 600 - dropped * 9
            tens, rest = divmod(frames, per_ten)
            frames += tens * dropped * 9
            if rest >= base * 60:
                frames += dropped * ((rest - base * 60) // (base * 60 - dropped) + 1)
        seconds, frame = divmod(frames, base)
        minutes, second = divmod(seconds, 60)
        hours, minute = divmod(minutes, 60)
        width = max(2, len(str(base - 1)))
        return f"{hours % 24:02d}:{minute:02d}:{second:02d}{';' if self.drop else ':'}{frame:0{width}d}"


def labelled(code: Timecode) -> str:
    """The label with its remainder, as `parse_timecode` reads it; without one where there is none to a millionth of a frame."""
    part = round(code.fraction, 6)
    return f"{code}{f'{part:.6f}'[1:].rstrip('0')}" if 0 < part < 1 else str(code)


def noted(code: Timecode | None) -> dict[str, str | float]:
    """A count as files and reports note it; blank where there is none."""
    return {
        "timecode": str(code) if code else "",
        "timecodeRate": format_rate(code.rate) if code else "",
        "timecodeFraction": code.fraction if code else 0.0,
    }


def counting_base(rate: Fraction) -> int:
    """Labels a second: 30 for 30000/1001."""
    return max(1, round(float(rate)))


def parse_timecode(text: str, rate: Fraction) -> Timecode:
    """A label ("01:02:03:04", drop-frame with ";", remainder ":04.250") at a rate; raises InputError."""
    match = _LABEL.match(text)
    if not match:
        raise InputError(f"{text!r} is no timecode; write it as hh:mm:ss:ff")
    hours, minutes, seconds, frame = (int(match[i]) for i in (1, 2, 3, 5))
    base = counting_base(rate)
    if minutes > 59 or seconds > 59 or hours > 23 or frame >= base:
        raise InputError(f"timecode {text!r} is out of range at {base} frames per second")
    frames = (hours * 3600 + minutes * 60 + seconds) * base + frame
    drop = match[4] == ";" and rate.denominator == 1001 and base in (30, 60)
    if drop:
        dropped = base // 15
        total = hours * 60 + minutes
        if seconds == 0 and frame < dropped and minutes % 10:
            raise InputError(f"timecode {text!r} is a label that drop-frame counting leaves out")
        frames -= dropped * (total - total // 10)
    fraction = float(f"0.{match[6]}") if match[6] else 0.0
    return Timecode(frames, rate, fraction, drop)


def parse_count(text: str, rate: Fraction) -> Timecode:
    """A label, or one whole number of frames from midnight, at a rate; raises InputError."""
    if not text.isdigit():
        return parse_timecode(text, rate)
    day = counting_base(rate) * 86_400
    if len(text) > 12 or int(text) >= day:
        raise InputError(f"{text:.20} counts frames beyond a day, which has {day} at {counting_base(rate)} a second")
    return Timecode(int(text), rate)


def frames_field(text: str) -> int | None:
    """The frame field of something that looks like a timecode, or None: tells timecode columns from others."""
    match = _LABEL.match(text)
    return int(match[5]) if match else None


def from_seconds(seconds: float, rate: Fraction, drop: bool = False) -> Timecode:
    """The timecode of a moment in real seconds since midnight."""
    exact = seconds * float(rate)
    frames = int(exact + 1e-6)
    return Timecode(frames, rate, max(0.0, exact - frames), drop)


@dataclass(frozen=True)
class RunningCount:
    """A count that goes on: code at a moment of a clock, in seconds."""

    code: Timecode
    moment: float

    def at(self, moment: float) -> Timecode:
        """The count at another moment, a day later again the same."""
        day = counting_base(self.code.rate) * 86_400 / float(self.code.rate)
        return from_seconds((self.code.seconds + moment - self.moment) % day, self.code.rate, self.code.drop)
