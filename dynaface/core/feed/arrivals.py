"""How the packets of one sender arrive: which are new, late or doubled, how many were lost, how many come a second."""

from collections import deque
from typing import Literal

from dynaface.core.feed.packet import Packet

Kind = Literal["new", "late", "doubled"]
WINDOW = 60.0  # seconds over which losses are counted
RATE_WINDOW = 2.0
BACK = 300  # numbers by which a packet may be late; further back its sender has begun anew
BACK_SECONDS = 5.0
MOST = 20_000  # arrivals that are remembered
PAUSE = 1.0  # seconds without a packet after which what comes is a new beginning: the numbers between are no loss
FOLLOWING = 12  # packets behind the newest, one after the other, that say that the sender has begun anew


class Arrivals:
    """Told of each packet in the order in which they come, with the moments on the receiver's clock, in seconds."""

    def __init__(self) -> None:
        self._times: deque[float] = deque(maxlen=MOST)
        self._lost: deque[tuple[float, int]] = deque(maxlen=MOST)
        self._seen: deque[int] = deque(maxlen=2 * BACK)
        self._missing: set[int] = set()
        self._number: int | None = None
        self._sent: float | None = None
        self._first: float | None = None
        self._ahead = 0.0
        self._behind = 0
        self.last: float | None = None
        self.begun = 0  # times that the sender began anew

    def heard(self, packet: Packet, now: float) -> Kind:
        """What a packet is; one that is late or doubled changes nothing of what is shown."""
        begun = self.begun
        kind = self._by_number(packet.number, now) if packet.number is not None else self._by_clock(packet.seconds)
        self._behind = 0 if kind == "new" else self._behind + 1
        if self._first is None:
            self._first = now
            self._align(packet, now)
        elif begun != self.begun and packet.seconds is not None and packet.seconds < (self._sent or 0.0):
            self._align(packet, now)
        if kind == "new":
            self._times.append(now)
            self.last = now
            if packet.seconds is not None:
                self._sent = packet.seconds
        return kind

    def seconds(self, packet: Packet, now: float) -> float:
        """When a packet is, from the first of all on: by the sender's clock, which goes on where it begins anew, else as it came."""
        if packet.seconds is None or self._first is None:
            return now - (self._first if self._first is not None else now)
        return packet.seconds + self._ahead

    def rate(self, now: float) -> float:
        """New packets a second."""
        recent = 0
        for moment in reversed(self._times):
            if now - moment > RATE_WINDOW:
                break
            recent += 1
        since = now - (self._first if self._first is not None else now)
        return recent / min(RATE_WINDOW, max(since, 0.25))

    def age(self, now: float) -> float | None:
        """Seconds since the last new packet, None before the first."""
        return None if self.last is None else max(0.0, now - self.last)

    def lost(self, now: float) -> int:
        """Packets that were lost in the last minute, by their numbers."""
        while self._lost and now - self._lost[0][0] > WINDOW:
            _, number = self._lost.popleft()
            self._missing.discard(number)
        return len(self._missing)

    def _align(self, packet: Packet, now: float) -> None:
        """From here on the sender's clock counts on from what has passed here."""
        if packet.seconds is not None and self._first is not None:
            self._ahead = (now - self._first) - packet.seconds

    def _by_number(self, number: int, now: float) -> Kind:
        before = self._number
        paused = self.last is not None and now - self.last > PAUSE
        again = self._behind >= FOLLOWING or paused
        if before is not None and number <= before and before - number <= BACK and not again:
            if number in self._missing:
                self._missing.discard(number)
                self._seen.append(number)
                return "late"
            return "doubled" if number == before or number in self._seen else "late"
        if before is None or number <= before or paused or number - before > BACK:
            self._anew(before is not None)
        else:
            for lost in range(before + 1, number):
                self._missing.add(lost)
                self._lost.append((now, lost))
        self._number = number
        self._seen.append(number)
        return "new"

    def _by_clock(self, seconds: float | None) -> Kind:
        if seconds is None or self._sent is None:
            return "new"
        if seconds == self._sent:
            return "doubled"
        if seconds > self._sent:
            return "new"
        if self._sent - seconds <= BACK_SECONDS and self._behind < FOLLOWING:
            return "late"
        self._anew(True)
        return "new"

    def _anew(self, again: bool) -> None:
        self._seen.clear()
        self._missing.clear()
        if again:
            self.begun += 1
