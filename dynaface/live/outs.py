"""Feeds out: what is shown of a sender, sent on in our layout or as one message a channel, at most so many times a second."""

import re
import socket
from dataclasses import dataclass, field, replace
from typing import Any

import numpy as np

from dynaface.core.errors import InputError
from dynaface.core.feed.messages import (
    FACE_CHANNELS,
    Message,
    as_word,
    channel_messages,
    is_address,
    messages_of,
    parse_pattern,
)
from dynaface.core.feed.packet import Packet
from dynaface.core.plain import is_number
from dynaface.core.shapes.standard import PLACE_OF
from dynaface.formats.osc import write_datagram
from dynaface.live.sender import Heard, Sender

MOST_OUTS = 8
TIMELINE = "timeline"  # how a sender comes that is what a page plays
OF = ("live", "timeline", "both")
FASTEST = 240
SAID_AGAIN = 60  # packets after which a body's skeleton is said again
CHANGED = 1e-4  # by which a value must differ to be sent where only changes are
HOST = re.compile(r"^[A-Za-z0-9.:_-]{1,120}$")
INSIDE = [PLACE_OF[n] for n in FACE_CHANNELS]


@dataclass
class Out:
    """host, port: where it goes; rate: at most so many times a second; changes: only values that changed, which needs a pattern; pattern:
    the address of a channel with {channel} and {performer} in it, or "" for our layout; names: channel -> what it is called there, all
    of them where it is empty; performer: whose, "" for all; of: one of OF.
    """

    host: str
    port: int
    rate: float = 60.0
    changes: bool = False
    pattern: str = ""
    names: dict[str, str] = field(default_factory=dict)
    performer: str = ""
    of: str = "both"
    sent: int = 0
    trouble: str = ""
    _last: dict[tuple[int, bool], tuple[float, Any]] = field(default_factory=dict)
    _numbers: dict[tuple[int, bool], int] = field(default_factory=dict)
    _socket: socket.socket | None = field(default=None, repr=False)

    def describe(self) -> dict[str, Any]:
        """For the page."""
        return {
            "host": self.host, "port": self.port, "rate": self.rate, "changes": self.changes, "pattern": self.pattern,
            "names": self.names, "performer": self.performer, "of": self.of, "sent": self.sent, "trouble": self.trouble,
        }  # fmt: skip

    def offer(self, sender: Sender, heard: Heard, now: float) -> None:
        """Sends what is shown now, unless it is too soon or somebody else's."""
        wrong = self.of == "timeline" if sender.how != TIMELINE else self.of == "live"
        if wrong or (self.performer and self.performer != sender.performer):
            return
        key = sender.number, bool(heard.packet.values)  # face and body are counted apart
        due, before = self._last.get(key, (now, None))
        if now < due - 0.25 / self.rate:  # packets that come a little early are meant for the next moment
            return
        shown = heard.shown[INSIDE]
        messages = self._messages(sender, heard, shown, before, self._numbers.get(key, -1) + 1)
        if not messages:
            return
        self._last[key] = (max(due, now - 1 / self.rate) + 1 / self.rate, shown)
        self._numbers[key] = self._numbers.get(key, -1) + 1
        try:
            self._send(write_datagram(messages))
            self.sent, self.trouble = self.sent + 1, ""
        except OSError as error:
            self.trouble = f"{self.host}:{self.port} can't be sent to: {error.strerror or error}"

    def open(self) -> None:
        """Finds out where it goes; raises InputError. It may take a while, and is done before anything is offered."""
        try:
            family, kind, proto, _, address = socket.getaddrinfo(self.host, self.port, type=socket.SOCK_DGRAM)[0]
            self._socket = socket.socket(family, kind, proto)
            self._socket.setblocking(False)
            self._socket.connect(address)
        except OSError as error:
            raise InputError(f"{self.host}:{self.port} is not found: {error.strerror}", where="host") from None

    def close(self) -> None:
        """Ends it."""
        if self._socket is not None:
            self._socket.close()
            self._socket = None

    def _messages(self, sender: Sender, heard: Heard, shown: Any, before: Any, number: int) -> list[Message]:
        known = np.isfinite(shown)
        if not self.pattern:
            packet = replace(shown_packet(sender, heard), number=number)
            again = packet.joints and number % SAID_AGAIN == 0
            return list(messages_of(replace(packet, skeleton=sender.body.rows) if again else packet))
        if not heard.packet.values:
            return []  # a body, for which there is no pattern
        if self.changes and before is not None:
            with np.errstate(invalid="ignore"):
                known &= ~(np.abs(shown - before) <= CHANGED)
        called = [self.names.get(channel, "" if self.names else channel) for channel in FACE_CHANNELS]
        values = {n: float(v) for n, v, k in zip(called, shown, known, strict=True) if n and k}
        return channel_messages(self.pattern, word_of(sender), values)

    def _send(self, data: bytes) -> None:
        try:
            if self._socket is not None:
                self._socket.send(data)
        except BlockingIOError:
            pass  # what can't be sent at once is out of date by then
        except ConnectionRefusedError:
            raise ConnectionRefusedError(0, "nobody listens there") from None


def shown_packet(sender: Sender, heard: Heard) -> Packet:
    """What is shown of a packet, as a packet of ours; its body is as it came."""
    packet, values = heard.packet, {}
    if packet.values:
        shown = heard.shown[INSIDE]
        values = {n: float(v) for n, v in zip(FACE_CHANNELS, shown, strict=True) if np.isfinite(v)}
    return Packet(word_of(sender), sender.packets, heard.seconds, packet.timecode, values, packet.joints, packet.root)


def word_of(sender: Sender) -> str:
    """The name of a sender as a word of an address."""
    return as_word(sender.name) or "performer"


def parse_out(given: dict[str, Any]) -> Out:
    """An out from plain data; raises InputError."""
    host, port = given.get("host"), given.get("port")
    rate, pattern = given.get("rate", 60), given.get("pattern", "")
    names, changes, performer = given.get("names", {}), given.get("changes", False), given.get("performer", "")
    if not isinstance(host, str) or not HOST.match(host):
        raise InputError(f"{host!r:.60} is no address of a machine", where="host")
    if not isinstance(port, int) or isinstance(port, bool) or not 1 <= port <= 65535:
        raise InputError(f"{port!r:.20} is no port; it must be 1 to 65535", where="port")
    if not is_number(rate) or not 1 <= rate <= FASTEST:
        raise InputError(f"{rate!r:.20} times a second; it must be 1 to {FASTEST}", where="rate")
    if pattern != "":
        parse_pattern(pattern)
    if not isinstance(changes, bool) or (changes and not pattern):
        raise InputError("only what changes can be sent where each channel has a message of its own", where="changes",
                         hint="Give an address with {channel} in it")  # fmt: skip
    if not isinstance(performer, str) or len(performer) > 80:
        raise InputError("the performer is no name", where="performer")
    if given.get("of", "both") not in OF:
        raise InputError(f"{given['of']!r:.40} is not sent; there are {', '.join(OF)}", where="of")
    if not isinstance(names, dict) or not all(n in FACE_CHANNELS and isinstance(v, str) for n, v in names.items()):
        raise InputError("names must be a table of channels and what they are called", where="names")
    for called in names.values():
        if called and not is_address(f"/{called}"):
            raise InputError(f"{called!r:.60} can't stand in an address", where="names")
    return Out(host, port, float(rate), changes, pattern, names, performer, given.get("of", "both"))
