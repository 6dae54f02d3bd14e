"""A page's microphone: sound in pieces, when it began on this machine's clock, and the seconds before a recording."""

import struct
from collections import deque
from dataclasses import dataclass, field

from dynaface.core.errors import InputError

HEAD = struct.Struct("<If")  # samples a second, seconds between the air and the page
SAMPLE = 2  # bytes: 16 bit, one channel
RATES = (8_000, 192_000)
MOST_LATENCY = 1.0
PRE_ROLL = 5.0  # seconds that are kept of what came before a recording


@dataclass
class Microphone:
    """rate: samples a second; latency: seconds that the page takes to get a sample; began: when its first sample was in the air, by the
    piece that was the least late.
    """

    rate: int
    latency: float
    began: float = float("inf")
    samples: int = 0
    recent: deque[tuple[int, bytes]] = field(default_factory=deque)

    def hear(self, data: bytes, wall: float) -> None:
        """A piece of 16 bit samples that came now (seconds since 1970)."""
        self.recent.append((self.samples, data))
        self.samples += len(data) // SAMPLE
        # A piece that waited on its way says too late a beginning; none can say one that is too early.
        self.began = min(self.began, wall - self.latency - self.samples / self.rate)
        while self.samples - self.recent[0][0] > (PRE_ROLL + 1) * self.rate:
            self.recent.popleft()

    def when(self, sample: int) -> float:
        """Seconds since 1970 at which a sample was in the air."""
        return self.began + sample / self.rate


def piece_of(message: bytes) -> tuple[int, float, bytes]:
    """(rate, latency, samples) of a message; raises InputError."""
    if len(message) <= HEAD.size or (len(message) - HEAD.size) % SAMPLE:
        raise InputError("this is no sound")
    rate, latency = HEAD.unpack_from(message)
    if not RATES[0] <= rate <= RATES[1] or not 0 <= latency <= MOST_LATENCY:
        raise InputError(
            f"sound at {rate} samples a second, {latency:g} s late", hint="8 to 192 kHz, at most a second late"
        )
    return rate, latency, message[HEAD.size :]
