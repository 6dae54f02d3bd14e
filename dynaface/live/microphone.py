"""A page's sound input: pieces of one or two channels, when it began on this machine's clock, the seconds before a recording, and linear timecode
where a channel carries it.
"""

import struct
from collections import deque
from dataclasses import dataclass, field

from dynaface.core.clock.timecode import RunningCount
from dynaface.core.errors import InputError
from dynaface.core.sound.ltc import count_of
from dynaface.core.sound.pcm import BYTES, from_pcm16
from dynaface.core.sound.sound import Sound

HEAD = struct.Struct("<IfI")  # samples a second, seconds between the air and the page, channels
RATES = (8_000, 192_000)
MOST_CHANNELS = 2
MOST_LATENCY = 1.0
PRE_ROLL = 5.0  # seconds that are kept of what came before a recording
LISTENED = 1.2  # seconds in which linear timecode is looked for


@dataclass(frozen=True)
class Piece:
    """rate: samples a second; latency: seconds between the air and the page; data: samples of 16 bit, channel by channel."""

    rate: int
    latency: float
    channels: int
    data: bytes


@dataclass
class Microphone:
    """rate, latency, channels: as its pieces say them; began: when its first sample was in the air, by the piece that was the least late; samples:
    of each channel so far.
    """

    rate: int
    latency: float
    channels: int = 1
    began: float = float("inf")
    samples: int = 0
    recent: deque[tuple[int, bytes]] = field(default_factory=deque)

    def goes_on(self, piece: Piece) -> bool:
        """Whether a piece is of this one: another rate, latency or number of channels is another microphone."""
        return (self.rate, self.latency, self.channels) == (piece.rate, piece.latency, piece.channels)

    def hear(self, data: bytes, wall: float) -> None:
        """A piece of 16 bit samples that came now (seconds since 1970)."""
        self.recent.append((self.samples, data))
        self.samples += len(data) // (BYTES * self.channels)
        # A piece that waited on its way says too late a beginning; none can say one that is too early.
        self.began = min(self.began, wall - self.latency - self.samples / self.rate)
        while self.samples - self.recent[0][0] > (PRE_ROLL + 1) * self.rate:
            self.recent.popleft()

    def when(self, sample: int) -> float:
        """Seconds since 1970 at which a sample was in the air."""
        return self.began + sample / self.rate

    def count(self) -> RunningCount | None:
        """The timecode that a channel carries now, over seconds since 1970; None where none does. It may take milliseconds."""
        least = self.samples - int(LISTENED * self.rate)
        pieces = [one for one in list(self.recent) if one[0] >= least]
        if not pieces:
            return None
        heard = from_pcm16(b"".join(data for _, data in pieces), self.channels)
        found = count_of(Sound(heard, self.rate))
        return RunningCount(found[1], self.when(pieces[0][0])) if found else None


def piece_of(message: bytes) -> Piece:
    """A piece of a message; raises InputError."""
    if len(message) <= HEAD.size:
        raise InputError("this is no sound")
    rate, latency, channels = HEAD.unpack_from(message)
    if not RATES[0] <= rate <= RATES[1] or not 0 <= latency <= MOST_LATENCY or not 1 <= channels <= MOST_CHANNELS:
        raise InputError(
            f"sound of {channels} channels at {rate} samples a second, {latency:g} s late",
            hint="One channel or two, 8 to 192 kHz, at most a second late",
        )
    if (len(message) - HEAD.size) % (BYTES * channels):
        raise InputError("this is no sound")
    return Piece(rate, latency, channels, message[HEAD.size :])
